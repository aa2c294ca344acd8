import { useEffect, useState } from "react";
import { useParams, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useWork } from "../../authoring/Authoring";
import { journeyOf } from "../../authoring/calls";
import { Waiting } from "../../design/View";
import { Followed } from "./JourneyView";

/** The journey of a ping on the model answer of a lab as it is worked on; listed, or just asked. */
export function DraftJourney() {
  const { number = "0" } = useParams();
  const [search] = useSearchParams();
  const { work, state } = useWork();
  const { text, stage } = state;
  const [from, to, source] = ["from", "to", "source"].map((key) => search.get(key) ?? "");
  const [found, setFound] = useState<{ journey: Schemas["JourneyView"]; of: string } | null>(null);
  const [error, setError] = useState<Error | null>(null);
  const of = [number, from, to, source].join(" ");
  useEffect(() => {
    let stale = false;
    const asked = { from_: from ?? "", to: to ?? "", source: source ?? "" };
    journeyOf({ text, stage, sheet: null, number: Number(number) || 0, ...asked }).then(
      (journey) => !stale && setFound({ journey, of }),
      (why: unknown) => !stale && setError(why instanceof Error ? why : new Error("It cannot be followed.")),
    );
    return () => {
      stale = true;
    };
  }, [text, stage, number, from, to, source, of]);
  if (found === null || found.of !== of) return <Waiting error={error} />;
  return <Followed key={of} journey={found.journey} base={`/labs/${work.slug}`} unsaved={work.changed} />;
}
