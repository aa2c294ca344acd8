import { useEffect, useState, useSyncExternalStore } from "react";
import { useWork } from "../authoring/Authoring";
import { Bench } from "./Bench";

const benches = new Map<string, Bench>();

/** The bench of the stage that is looked at, on the lab's text as it is worked on. */
export function useBench() {
  const { work, state } = useWork();
  const { text } = state;
  const stage = state.look?.stage ?? state.stage;
  const name = `${work.slug} ${stage}`;
  const [bench] = useState(() => {
    const found =
      benches.get(name) ?? new Bench(work.slug, text, stage, state.look?.devices[0]?.device ?? "");
    benches.set(name, found);
    return found;
  });
  useEffect(() => bench.on(text), [bench, text]);
  return { bench, own: useSyncExternalStore(bench.subscribe, bench.snapshot) };
}
