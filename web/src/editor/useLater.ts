import { useEffect, useEffectEvent } from "react";

/** Asks for an answer about a text once it rests for a moment; answers that come too late are left out. */
export function useLater<T>(text: string, ask: (text: string) => Promise<T>, take: (answer: T) => void) {
  const asking = useEffectEvent(ask);
  const taking = useEffectEvent(take);
  useEffect(() => {
    let stale = false;
    const timer = window.setTimeout(() => {
      asking(text).then(
        (answer) => !stale && taking(answer),
        () => undefined, // the next change asks again, and saving tells what is wrong
      );
    }, 200);
    return () => {
      stale = true;
      window.clearTimeout(timer);
    };
  }, [text]);
}
