import { marks } from "../../design/words";
import { Accept } from "./Accept";
import { Earned } from "./Earned";
import { inWords, type Criterion, type MarkedPaper } from "./types";
import { Overrule } from "./Overrule";

interface Props {
  paper: MarkedPaper;
  /** Opens the sheet of a device, where a mark's line stands. */
  onDevice: (device: string) => void;
}

/** Every criterion with what was required and found, and the lines that prove it: what an instructor defends, or overrules. */
export function EveryMark({ paper, onDevice }: Props) {
  const { criteria: all } = paper.result;
  const tasks = [...new Set(all.map((c) => c.task))];
  return (
    <table className="table rows paper-pings every-mark">
      <thead>
        <tr>
          <th scope="col">
            <span className="visually-hidden">Verdict</span>
          </th>
          <th scope="col">What</th>
          <th scope="col">Required</th>
          <th scope="col">Found</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <td className="mono total-mark">
            {marks(paper.result.carried)} of {marks(paper.result.out_of)}
          </td>
          <td colSpan={3}>
            The total, each mistake once{" "}
            <Overrule
              paper={paper.id}
              criterion=""
              what="the total"
              most={paper.result.out_of}
              now={paper.result.carried}
              overruled={paper.result.overruled ?? null}
            />
          </td>
        </tr>
      </tbody>
      {tasks.map((task) => (
        <tbody key={task}>
          <tr className="task">
            <th scope="rowgroup" colSpan={4}>
              {task}
            </th>
          </tr>
          {all
            .filter((c) => c.task === task)
            .map((own) => (
              <tr key={own.id}>
                <td>
                  <Earned criteria={[own]} />
                </td>
                <td className="mono">{inWords(own)}</td>
                <td className="mono">{own.required}</td>
                <td>
                  <span className="mono">{own.found}</span>
                  {own.fault !== null && <span className="pencil"> ({own.fault})</span>}
                  {own.carried && (
                    <span className="soft d-block">Carried: the mistake behind it is charged.</span>
                  )}
                  {own.note !== "" && <span className="soft d-block">{own.note}</span>}
                  <div className="under soft">
                    <Proof own={own} paper={paper} onDevice={onDevice} />
                    <Overrule
                      paper={paper.id}
                      criterion={own.id}
                      what={inWords(own)}
                      most={own.marks}
                      now={own.marks * own.fraction}
                      overruled={own.overruled ?? null}
                    />
                    <Accept own={own} paper={paper} />
                  </div>
                </td>
              </tr>
            ))}
        </tbody>
      ))}
    </table>
  );
}

interface ProofProps extends Props {
  own: Criterion;
}

/** The lines that prove a mark; each leads to its sheet. */
function Proof({ own, paper, onDevice }: ProofProps) {
  const lines = own.lines.flatMap(({ file, line }) => {
    const device = paper.sheets.find((s) => s.file === file)?.device;
    return device === undefined ? [] : [{ device, line }];
  });
  if (lines.length === 0) return null;
  return (
    <span>
      {lines.slice(0, 6).map(({ device, line }, n) => (
        <span key={`${device} ${line}`}>
          {n > 0 && ", "}
          <button type="button" className="as-link" onClick={() => onDevice(device)}>
            {device} line {line}
          </button>
        </span>
      ))}
    </span>
  );
}
