import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useJourney } from "../../api/queries";
import { atStage } from "../../design/Stages";
import { View, Waiting } from "../../design/View";
import { count } from "../../design/words";
import { Weave } from "../../weave/Weave";
import { Ledger } from "./Ledger";

/** A ping's journey on a paper: the line on the weave and the ledger of its legs, stepped by keys. */
export function JourneyView() {
  const { paper = "", number = "1" } = useParams();
  const journey = useJourney(Number(paper), Number(number));
  const base = `/papers/${paper}`;
  if (journey.data === undefined) return <Waiting error={journey.error} />;
  return <Followed key={`${base} ${number}`} journey={journey.data} base={base} />;
}

/** A journey that is there: `base` is the address of what it belongs to. */
export function Followed({
  journey,
  base,
  unsaved = false,
  list,
}: {
  journey: Schemas["JourneyView"];
  base: string;
  unsaved?: boolean;
  /** Where the list is that it is one of, if not below `base`. */
  list?: string;
}) {
  const navigate = useNavigate();
  const { legs, ping, weave } = journey;
  const [at, setAt] = useState(0);
  const leg = legs[Math.min(at, legs.length - 1)];
  const address = (path: string) => atStage(path, journey.paper === null ? journey.stage : "");
  const step = (by: number) => () => setAt(Math.min(legs.length - 1, Math.max(0, at + by)));
  const other = (by: number) => () => {
    const to = journey.number + by;
    if (to >= 1 && to <= journey.of) void navigate(address(`${base}/pings/${to}`), { replace: true });
  };
  const turn = () => {
    const back = legs.findIndex((l) => l.way !== "there");
    if (back >= 0) setAt(at >= back ? 0 : back);
  };
  const away = address(list ?? (journey.paper === null ? `${base}/pings` : base));
  return (
    <View
      lab={{ slug: journey.slug, title: journey.lab, stage: journey.stage }}
      ofPapers={journey.paper !== null}
      title={heading(ping)}
      about={subtitle(journey)}
      aside={journey.learner ?? `${place(journey)}, model answer`}
      keys={[
        { key: "→", on: ["ArrowRight", "ArrowDown"], does: "next leg", run: step(1) },
        { key: "←", on: ["ArrowLeft", "ArrowUp"], does: "previous leg", run: step(-1) },
        { key: "b", does: "there or back", run: turn },
        { key: "[", does: "previous ping", run: other(-1) },
        { key: "]", does: "next ping", run: other(1) },
        { key: "Esc", on: ["Escape"], does: "back to the list", run: () => void navigate(away) },
      ]}
      side={
        <Ledger
          journey={journey}
          unsaved={unsaved}
          leg={leg}
          onLeg={(chosen) => setAt(legs.indexOf(chosen))}
        />
      }
    >
      <Weave
        weave={weave}
        legs={legs}
        leg={leg}
        device={leg?.device}
        onLeg={(chosen) => setAt(legs.indexOf(chosen))}
      />
    </View>
  );
}

const OUTCOMES = {
  reply: "a reply",
  answer: "an answer",
  refused: "refused",
  timeout: "no answer",
  unreachable: "unreachable",
  "no-route": "cannot be sent",
  "no-name": "no such name",
};

type Row = Schemas["JourneyView"]["ping"];

/** Which of the lab's pings or checks it is. */
function place({ number, pings, of }: Schemas["JourneyView"]): string {
  return number <= pings ? `ping ${number} of ${pings}` : `check ${number - pings} of ${of - pings}`;
}

/** Whom it goes to: a device or address, a service, or a name that is looked up. */
const target = (row: Row) => ("to" in row ? row.to : "open" in row ? row.open : row.resolve);

function heading(ping: Row): string {
  const from = ping.source === null ? ping.from : `${ping.from} ${ping.source}`;
  const held = ping.as_expected === null ? "" : ping.as_expected ? ", as expected" : ", not as expected";
  return `${from} to ${target(ping)}: ${OUTCOMES[ping.outcome]}${held}`;
}

function subtitle(journey: Schemas["JourneyView"]): string {
  const { legs, ping } = journey;
  const there = legs.filter((l) => l.way === "there").length;
  const back = legs.length - there;
  const seen = ping.seen_as === null ? "" : `seen at the far end as ${ping.seen_as}, `;
  const ways = `${count(there, "leg")} there, ${back} back`;
  if (ping.outcome === "reply" || ping.outcome === "answer")
    return `${seen}${ways}${journey.note === "" ? "" : `; ${journey.note}`}`;
  return `${ping.detail.charAt(0).toUpperCase()}${ping.detail.slice(1)}.`;
}
