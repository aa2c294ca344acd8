import { useEffect, useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useJourney } from "../../api/queries";
import { atStage } from "../../design/Stages";
import type { Key } from "../../design/keys";
import { View, Waiting } from "../../design/View";
import { count } from "../../design/words";
import { Weave } from "../../weave/Weave";
import { BothSides } from "./BothSides";
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
  onPackets,
  list,
  more = [],
  about,
}: {
  journey: Schemas["JourneyView"];
  base: string;
  unsaved?: boolean;
  /** Fetches the packets, where they are not at an address. */
  onPackets?: () => void;
  /** Where the list is that it is one of, if not below `base`. */
  list?: string;
  /** Further keys, and what is said in place of where it ran. */
  more?: Key[];
  about?: string;
}) {
  const navigate = useNavigate();
  const { legs, ping, weave } = journey;
  const [search, setSearch] = useSearchParams();
  const [at, setAt] = useState(Math.max(0, Number(search.get("leg") ?? 1) - 1));
  const [pace, setPace] = useState(0);
  const [focused, setFocused] = useState(false);
  const leg = legs[Math.min(at, legs.length - 1)];
  const number = leg?.number ?? 1;
  useEffect(() => {
    // the address follows, so that it leads to exactly this moment
    if (search.get("leg") === String(number) || (number === 1 && !search.has("leg"))) return;
    const next = new URLSearchParams(search);
    next.set("leg", String(number));
    setSearch(next, { replace: true });
  }, [number, search, setSearch]);
  useEffect(() => {
    if (pace === 0) return;
    const timer = window.setInterval(() => setAt((now) => (now + 1) % legs.length), pace);
    return () => window.clearInterval(timer);
  }, [pace, legs.length]);
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
      aside={about ?? journey.learner ?? `${place(journey)}, model answer`}
      keys={[
        { key: "→", on: ["ArrowRight", "ArrowDown"], does: "next leg", run: step(1) },
        { key: "←", on: ["ArrowLeft", "ArrowUp"], does: "previous leg", run: step(-1) },
        { key: "b", does: "there or back", run: turn },
        {
          key: "f",
          does: focused ? "the legs" : "both sides of the device",
          run: () => setFocused(!focused),
        },
        { key: "w", does: pace === 0 ? "walk" : "stand still", run: () => setPace(pace === 0 ? 1600 : 0) },
        { key: "+", does: "walk faster", run: () => setPace(Math.max(400, pace / 1.5)), more: true },
        { key: "-", does: "walk slower", run: () => setPace(Math.min(6000, pace * 1.5)), more: true },
        ...more,
        { key: "[", does: "previous ping", run: other(-1) },
        { key: "]", does: "next ping", run: other(1) },
        { key: "Esc", on: ["Escape"], does: "back to the list", run: () => void navigate(away) },
      ]}
      side={
        <>
          {focused && leg && <BothSides legs={legs} device={leg.device} at={leg} />}
          <Ledger
            journey={journey}
            unsaved={unsaved}
            onPackets={onPackets}
            leg={leg}
            onLeg={(chosen) => setAt(legs.indexOf(chosen))}
          />
        </>
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
