import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { answered, client, type Schemas } from "../../api/client";
import { useWork } from "../../authoring/Authoring";
import { keepFile } from "../../bench/files";
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
  const [moment, setMoment] = useState(0);
  const ready = own.look !== null;
  const moments = [
    { label: "now", sheets: own.sheets },
    ...(own.beforeSheets === null ? [] : [{ label: "before the last edit", sheets: own.beforeSheets }]),
    ...own.moments,
  ];
  const shown = moments[moment % moments.length];
  const sheets = shown?.sheets;
  useEffect(() => {
    if (!ready) return;
    let stale = false;
    const body = { ...bench.body(sheets), number: Number(number) || 0, port: "" };
    answered(client.POST("/api/bench/journey", { body })).then(
      (found) => {
        if (stale) return;
        setJourney(found);
        setError(null);
      },
      (why: unknown) => !stale && setError(why instanceof Error ? why : new Error("It cannot be followed.")),
    );
    return () => {
      stale = true;
    };
  }, [bench, number, ready, sheets]);
  if (error !== null || journey?.number !== Number(number)) return <Waiting error={error} />;
  const base = `/labs/${work.slug}/bench`;
  return (
    <Followed
      key={number}
      journey={journey}
      base={base}
      list={base}
      about={`on the bench, ${shown?.label ?? "now"}`}
      more={
        moments.length > 1
          ? [{ key: "v", does: "the same at another moment", run: () => setMoment(moment + 1) }]
          : []
      }
      onPackets={() =>
        void keepFile(work.slug, bench.body(sheets), "packets", Number(number)).catch(setError)
      }
    />
  );
}
