import { useEffect, useRef } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { atOccasion, occasionOf } from "../../api/occasion";
import { keep } from "../../authoring/useKept";
import { inWords, marks } from "../../design/words";
import { ALL } from "../class/order";
import { IfMended } from "./IfMended";
import { Sum } from "./Sum";
import type { Fault } from "./types";
import type { MarkedPaper } from "./types";

interface Props {
  paper: MarkedPaper;
  fault: Fault | undefined;
  onFault: (fault: Fault) => void;
}

/** The mistakes behind the lost marks, what each costs and what follows from it, and both totals. */
export function Mistakes({ paper, fault, onFault }: Props) {
  const { faults, score, carried, out_of, percent, grade } = paper.result;
  return (
    <>
      <section className="totals">
        <div>
          <span className="soft">each mistake once</span>
          <span className="total">
            {marks(carried)} <small>of {marks(out_of)}</small>
          </span>
        </div>
        <div>
          <span className="soft">as it stands</span>
          <span className="total soft">
            {marks(score)} <small>of {marks(out_of)}</small>
          </span>
        </div>
        {grade !== null && (
          <div>
            <span className="soft">{marks(percent)} of 100</span>
            <span className="total">{grade}</span>
          </div>
        )}
      </section>
      <Sum paper={paper} />
      {paper.result.overruled && (
        <p className="pencil">
          The total is overruled, {marks(paper.result.overruled.marks)} in place of{" "}
          {marks(paper.result.overruled.was)}: {paper.result.overruled.reason}
        </p>
      )}
      <section>
        <h2>{heading(faults, score === out_of)}</h2>
        {faults.map((own) => (
          <Entry key={own.id} own={own} paper={paper} chosen={own === fault} onChoose={() => onFault(own)} />
        ))}
      </section>
      <Extras extras={paper.result.extras} />
      {paper.result.remarks.length > 0 && (
        <section>
          <h2>About the files</h2>
          {paper.result.remarks.map((remark) => (
            <p className="soft mt-2 mb-0" key={remark}>
              {remark}
            </p>
          ))}
        </section>
      )}
    </>
  );
}

/** Statements that nobody asked for: first those that change what the network does. */
function Extras({ extras }: { extras: Schemas["Extra"][] }) {
  if (extras.length === 0) return null;
  const ordered = [...extras.filter((e) => e.changes), ...extras.filter((e) => !e.changes)];
  return (
    <section className="mt-4">
      <h2>Beyond what was asked</h2>
      {ordered.map((extra) => (
        <p className="mt-2 mb-0" key={`${extra.device} ${extra.line ?? ""} ${extra.found}`}>
          <span className="mono">
            {extra.device}
            {extra.line !== null && ` line ${extra.line}`}: {extra.found}
          </span>
          <span className="soft">{extra.changes ? "" : ", without effect"}</span>
          {extra.charged > 0 && <span className="pencil number"> −{marks(extra.charged)}</span>}
        </p>
      ))}
    </section>
  );
}

function heading(faults: Fault[], full: boolean): string {
  if (faults.length === 0) return full ? "Nothing to mend" : "No single mistake found";
  if (faults.every((f) => f.slip === "sheet-missing"))
    return `${inWords(faults.length, true)} ${faults.length === 1 ? "sheet is" : "sheets are"} missing`;
  return `${inWords(faults.length, true)} ${faults.length === 1 ? "mistake" : "mistakes"}`;
}

interface EntryProps {
  own: Fault;
  paper: MarkedPaper;
  chosen: boolean;
  onChoose: () => void;
}

function Entry({ own, paper, chosen, onChoose }: EntryProps) {
  const ref = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (chosen) ref.current?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  return (
    <div ref={ref} className={chosen ? "entry fault chosen" : "entry fault"}>
      <h3>
        <button type="button" className="cover" aria-pressed={chosen} onClick={onChoose}>
          {own.id} {own.title}
        </button>
        <span className="pencil number">−{marks(own.direct)}</span>
      </h3>
      {!own.whole && own.also.length === 0 && own.found !== own.required && (
        <p className="mono">
          {standsIn(paper, own)}
          {own.line !== null && ` line ${own.line}`}: {own.found ?? "not there"}
          {own.required !== null && <>, needed {own.required}</>}
          {own.in_front_of !== null && <> above line {own.in_front_of.line}</>}
        </p>
      )}
      <p>{own.said}</p>
      {chosen && <p className="soft">For you: {own.told}</p>}
      {chosen && own.in_form !== "" && (
        <>
          <p className="soft mb-1">
            {handedInAs(paper, own) === "snapshot" ? "On the machine:" : "In the form of the file:"}
          </p>
          <pre className="in-form pencil">{own.in_form}</pre>
        </>
      )}
      {chosen && <IfMended key={own.id} paper={paper} fault={own} />}
      {chosen && <Others title={own.title} paper={paper} />}
      <Behind own={own} paper={paper} />
    </div>
  );
}

/** The way to the others of the class with a mistake of the same kind. */
function Others({ title, paper }: { title: string; paper: MarkedPaper }) {
  const occasion = occasionOf(paper);
  return (
    <p>
      <Link
        to={atOccasion(`/labs/${paper.slug}/class`, occasion)}
        onClick={() => keep(`${atOccasion(paper.slug, occasion)} filter`, { ...ALL, mistake: title })}
      >
        Others with this mistake
      </Link>
    </p>
  );
}

/** The form of the file in which a fault's device was handed in. */
const handedInAs = (paper: MarkedPaper, fault: Fault) =>
  paper.sheets.find((s) => s.device === fault.device)?.form;

/** The device of the sheet in which a fault's line stands; the file where that is another device's. */
function standsIn(paper: MarkedPaper, fault: Fault): string {
  const own = paper.sheets.find((s) => s.device === fault.device);
  return fault.line === null || own?.file === fault.file ? fault.device : (fault.file ?? fault.device);
}

function Behind({ own, paper }: { own: Fault; paper: MarkedPaper }) {
  const { criteria, pings, services } = paper.result;
  if (own.consequences.length === 0) return <p className="soft">Nothing else depends on it.</p>;
  const behind = criteria.filter((c) => own.consequences.includes(c.id));
  const charged = behind.filter((c) => !c.carried);
  const told = charged.length === 0 ? "Behind it, and not charged again:" : "Behind it:";
  const pinged = behind.filter((c) => c.key === "ping");
  const checked = behind.filter((c) => c.key === "check");
  return (
    <p className="soft">
      {told}{" "}
      {pinged.length > 0 && (
        <>
          {pinged.length === 1 ? "ping " : "pings "}
          {pinged.map(({ id, operand: name }, n) => (
            <span key={id}>
              {divider(n, pinged.length)}
              <Link to={`/papers/${paper.id}/pings/${pings.findIndex((p) => p.id === name) + 1}`}>
                {name}
              </Link>
            </span>
          ))}
        </>
      )}
      {pinged.length > 0 && checked.length > 0 && "; "}
      {checked.length > 0 && (
        <>
          {checked.length === 1 ? "check " : "checks "}
          {checked.map(({ id, operand: name }, n) => (
            <span key={id}>
              {divider(n, checked.length)}
              <Link
                to={`/papers/${paper.id}/pings/${pings.length + services.findIndex((r) => r.id === name) + 1}`}
              >
                {name}
              </Link>
            </span>
          ))}
        </>
      )}
    </p>
  );
}

const divider = (n: number, of: number) => (n === 0 ? "" : n === of - 1 ? " and " : ", ");
