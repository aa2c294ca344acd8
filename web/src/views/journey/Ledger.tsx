import { useEffect, useRef } from "react";
import type { Schemas } from "../../api/client";
import type { Leg } from "../../weave/trace";
import { inWords } from "../../design/words";
import { atStage } from "../../design/Stages";
import "./ledger.css";

interface Props {
  journey: Schemas["JourneyView"];
  /** Whether it runs on a text that is not saved: its packets are to be had of what is saved. */
  unsaved: boolean;
  onPackets: (() => void) | undefined;
  leg: Leg | undefined;
  onLeg: (leg: Leg) => void;
}

const HEADS = { there: "There", back: "And back", error: "The error about it" };

/** The legs of a journey in words: what came in, which line decided, what went out. */
export function Ledger({ journey, unsaved, onPackets, leg, onLeg }: Props) {
  const { legs } = journey;
  const ways = (["there", "back", "error"] as const).filter((way) => legs.some((l) => l.way === way));
  const find = journey.neighbours_to_find;
  return (
    <>
      {ways.map((way) => (
        <section key={way}>
          <h2>{HEADS[way]}</h2>
          <ol className="ledger">
            {legs
              .filter((l) => l.way === way)
              .map((l) => (
                <Entry key={l.number} leg={l} chosen={l === leg} onChoose={() => onLeg(l)} />
              ))}
          </ol>
        </section>
      ))}
      {legs.length === 0 && <p className="soft">Nothing was sent: {journey.ping.detail}.</p>}
      {legs.length > 0 && (onPackets !== undefined || !unsaved) && journey.number > 0 && (
        <p className="mt-3">
          {onPackets === undefined ? (
            <a href={packets(journey)}>Its packets as a file</a>
          ) : (
            <button type="button" className="place" onClick={onPackets}>
              Its packets as a file
            </button>
          )}
          <span className="soft"> (pcapng)</span>
        </p>
      )}
      {find > 0 && (
        <p className="soft mt-3">
          At {inWords(find)} {find === 1 ? "place" : "places"} a neighbour has to be found first; a real
          network may lose its first request there.
        </p>
      )}
    </>
  );
}

function Entry({ leg, chosen, onChoose }: { leg: Leg; chosen: boolean; onChoose: () => void }) {
  const ref = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (chosen) ref.current?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  const name = leg.sentence.startsWith(leg.device) ? leg.device : "";
  return (
    <li ref={ref} aria-current={chosen} className={leg.ended ? "ended" : ""}>
      <button type="button" className="cover number" aria-label={`Leg ${leg.number}`} onClick={onChoose}>
        {leg.number}
      </button>
      <div>
        <p>
          {name !== "" && <b>{name}</b>}
          {leg.sentence.slice(name.length)}
        </p>
        {leg.found_first && <p className="soft">its neighbour had to be found first</p>}
        {leg.switches.map((passed) => (
          <p className="soft" key={passed.device + passed.enters}>
            through {passed.device}, {passed.enters} to {passed.leaves}
            {passed.vlan !== 1 && `, VLAN ${passed.vlan}`}
          </p>
        ))}
        {(chosen ? leg.lines : leg.lines.slice(0, 1)).map((line) => (
          <p className="decided" key={`${line.file ?? ""} ${line.line ?? ""} ${line.text}`}>
            {line.file !== null && `${from(line.file)} · line ${line.line ?? ""} · `}
            {line.text}
          </p>
        ))}
        {chosen && (
          <>
            <p className="mono addresses">
              from {leg.source} to {leg.destination}
              {leg.vlan !== null && `, VLAN ${leg.vlan}`}
            </p>
            {leg.sent && (
              <p className="mono addresses">
                sent with TTL {leg.sent.ttl}
                {leg.sent.tag !== null && `, tag ${leg.sent.tag}`}
                {leg.sent.source_mac !== null && (
                  <span className="soft">
                    <br />
                    {leg.sent.source_mac} to {leg.sent.destination_mac}
                  </span>
                )}
              </p>
            )}
            {leg.rewritten.map((done) => (
              <p className="mono addresses" key={done.end}>
                {done.end} {done.before} → {done.after}
                <span className="soft"> {done.kind}</span>
              </p>
            ))}
          </>
        )}
      </div>
    </li>
  );
}

/** A sheet's file as a reader calls it: the device, and where the line is given. */
function from(file: string): string {
  const [where, device] = file.split("/");
  if (device !== undefined && where === "given") return `${device}, given`;
  return (device ?? file).replace(/\.sheet$/, "");
}

/** Where the packets of a journey are to be had. */
function packets(journey: Schemas["JourneyView"]): string {
  const { paper, slug, stage, number } = journey;
  if (paper !== null) return `/captures/papers/${paper}/${number}.pcapng`;
  return atStage(`/captures/labs/${slug}/${number}.pcapng`, stage);
}
