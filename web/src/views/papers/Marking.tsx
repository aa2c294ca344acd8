import { useEffect, useRef, useState } from "react";
import type { Occasion } from "../../api/occasion";
import { useMarking, useStopMarking } from "../../api/sittings";
import { count } from "../../design/words";

/** How far marking is while it goes on, and the way to stop it or have it go on; nothing where all is marked. */
export function Marking({ slug, occasion }: { slug: string; occasion: Occasion }) {
  const told = useMarking(slug, occasion);
  const stop = useStopMarking(slug, occasion);
  const seconds = useSecondsLeft(told?.left ?? 0);
  if (told === undefined || (told.left === 0 && !told.stopped)) return null;
  const ready = told.marked + told.failed;
  return (
    <div className="marking" role="status">
      <p>
        {told.stopped
          ? `Marking was stopped: ${ready} of ${count(told.papers, "paper")} are marked.`
          : `Marking: ${ready} of ${count(told.papers, "paper")}${seconds === null ? "" : `, about ${seconds} s left`}.`}{" "}
        <button
          type="button"
          className="as-link"
          disabled={stop.isPending}
          onClick={() => stop.mutate(!told.stopped)}
        >
          {told.stopped ? "Go on" : "Stop"}
        </button>
      </p>
      <progress value={ready} max={Math.max(1, told.papers)} aria-label="Papers marked" />
    </div>
  );
}

/** How long the rest takes, by how fast the last ones went; null before that can be told. */
function useSecondsLeft(left: number): number | null {
  const first = useRef<{ at: number; left: number } | null>(null);
  const [seconds, setSeconds] = useState<number | null>(null);
  useEffect(() => {
    const now = performance.now();
    if (first.current === null || left > first.current.left) first.current = { at: now, left };
    const marked = first.current.left - left;
    setSeconds(marked > 0 ? Math.ceil((left * (now - first.current.at)) / marked / 1000) : null);
  }, [left]);
  return seconds;
}
