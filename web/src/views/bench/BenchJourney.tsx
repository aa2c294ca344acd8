import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { answered, client, type Schemas } from "../../api/client";
import { useWork } from "../../authoring/Authoring";
import { useBench } from "../../bench/useBench";
import { Waiting } from "../../design/View";
import { Followed } from "../journey/JourneyView";

/** The journey of a ping on the bench, as its sheets stand. */
export function BenchJourney() {
  const { number = "1" } = useParams();
  const { work } = useWork();
  const { bench, own } = useBench();
  const [journey, setJourney] = useState<Schemas["JourneyView"] | null>(null);
  const [error, setError] = useState<Error | null>(null);
  const ready = own.look !== null;
  useEffect(() => {
    if (!ready) return;
    let stale = false;
    const body = { ...bench.body(), number: Number(number) || 0, port: "" };
    answered(client.POST("/api/bench/journey", { body })).then(
      (found) => !stale && setJourney(found),
      (why: unknown) => !stale && setError(why instanceof Error ? why : new Error("It cannot be followed.")),
    );
    return () => {
      stale = true;
    };
  }, [bench, number, ready]);
  if (journey?.number !== Number(number)) return <Waiting error={error} />;
  const base = `/labs/${work.slug}/bench`;
  return <Followed key={number} journey={journey} base={base} list={base} unsaved />;
}
