import { marks } from "../../design/words";
import type { MarkedPaper } from "./types";

/** How the total comes about: every mark that is lost stands in one line. */
export function Sum({ paper }: { paper: MarkedPaper }) {
  if (paper.sum.length === 0) return null;
  return (
    <details className="sum">
      <summary>How it adds up</summary>
      <table>
        <tbody>
          <tr>
            <td>in all</td>
            <td className="number">{marks(paper.result.out_of)}</td>
          </tr>
          {paper.sum.map(({ what, marks: lost }) => (
            <tr key={what}>
              <td>{what}</td>
              <td className="number pencil">
                {lost > 0 ? "−" : "+"}
                {marks(Math.abs(lost))}
              </td>
            </tr>
          ))}
          <tr>
            <td>each mistake once</td>
            <td className="number">{marks(paper.result.carried)}</td>
          </tr>
        </tbody>
      </table>
    </details>
  );
}
