import { useState } from "react";

/** Sends what was typed; true where it was taken. */
type Send = () => Promise<boolean>;

/** A field that is empty for the next entry as soon as one is sent: who types on need not wait for the answer. What is
 * refused comes back, unless more was typed since. */
export function useEntry(initial = ""): [string, (value: string) => void, (send: Send) => Promise<boolean>] {
  const [value, setValue] = useState(initial);
  const sent = async (send: Send) => {
    setValue("");
    const taken = await send();
    if (!taken) setValue((since) => (since === "" ? value : since));
    return taken;
  };
  return [value, setValue, sent];
}
