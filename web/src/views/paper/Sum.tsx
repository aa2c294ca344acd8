import type { Schemas } from "../../api/client";
import { marks } from "../../design/words";

interface Line {
  what: string;
  costs: number;
}

/** How the total comes about: every mark that is lost stands in one line. */
export function Sum({ result }: { result: Schemas["Result"] }) {
  const lines = linesOf(result);
  if (lines.length === 0) return null;
  return (
    <details className="sum">
      <summary>How it adds up</summary>
      <table>
        <tbody>
          <tr>
            <td>in all</td>
            <td className="number">{marks(result.out_of)}</td>
          </tr>
          {lines.map(({ what, costs }) => (
            <tr key={what}>
              <td>{what}</td>
              <td className="number pencil">−{marks(costs)}</td>
            </tr>
          ))}
          <tr>
            <td>each mistake once</td>
            <td className="number">{marks(result.overruled?.was ?? result.carried)}</td>
          </tr>
        </tbody>
      </table>
    </details>
  );
}

/** The mistakes with what they cost, then what is lost without one, extras, and what the scheme does not carry. */
function linesOf(result: Schemas["Result"]): Line[] {
  const { criteria, faults, extras, out_of } = result;
  const loose = (some: (c: Schemas["Marked"]) => boolean) =>
    sum(criteria.filter((c) => !c.carried && some(c)).map((c) => c.marks * (1 - c.fraction) - costsOf(c)));
  const byHand = (c: Schemas["Marked"]) => c.key === "manual";
  const notCarried = (c: Schemas["Marked"]) => c.note.startsWith("Not carried");
  const lines = [
    ...faults.map((f) => ({ what: `${f.id} ${f.title}, ${f.device || "answers"}`, costs: f.direct })),
    { what: "not carried: too little was done on the way", costs: loose(notCarried) },
    { what: "to be marked by hand", costs: loose(byHand) },
    { what: "lost without a mistake of its own", costs: loose((c) => !byHand(c) && !notCarried(c)) },
    { what: "beyond what was asked", costs: sum(extras.map((e) => e.charged)) },
  ];
  const total = result.overruled?.was ?? result.carried;
  const left = out_of - total - sum(lines.map((line) => line.costs));
  return [...lines, { what: "what follows, which this scheme charges too", costs: left }].filter(
    (line) => line.costs > 0.004,
  );
}

const costsOf = (criterion: Schemas["Marked"]) => sum(criterion.costs.map((c) => c.marks));
const sum = (numbers: number[]) => numbers.reduce((all, one) => all + one, 0);
