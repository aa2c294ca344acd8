import { Link, useNavigate } from "react-router";
import { Services } from "../pings/Services";
import { Earned } from "./Earned";
import type { MarkedPaper } from "./types";

/** The pings of a paper with their verdicts; each opens its journey on the learner's network. */
export function PaperPings({ paper }: { paper: MarkedPaper }) {
  const navigate = useNavigate();
  const { pings, services, criteria } = paper.result;
  return (
    <div>
      <table className="table rows paper-pings">
        <thead>
          <tr>
            <th scope="col">
              <span className="visually-hidden">Verdict</span>
            </th>
            <th scope="col">Ping</th>
            <th scope="col">From</th>
            <th scope="col">To</th>
            <th scope="col">Expected</th>
            <th scope="col">Found</th>
          </tr>
        </thead>
        <tbody>
          {pings.map((ping, n) => {
            const own = criteria.find((c) => c.key === "ping" && c.operand === ping.id);
            const link = `/papers/${paper.id}/pings/${n + 1}`;
            return (
              <tr key={ping.id} onClick={() => void navigate(link)}>
                <td>
                  <Earned criteria={own ? [own] : []} />
                </td>
                <td className="mono">{ping.id}</td>
                <td className="mono">
                  <Link to={link}>
                    {ping.from}
                    {ping.source !== null && ` ${ping.source}`}
                  </Link>
                </td>
                <td className="mono">{ping.to}</td>
                <td>{ping.expect}</td>
                <td>
                  {ping.outcome}
                  {own?.verdict !== "met" && <span className="soft">, {ping.detail.split(";")[0]}</span>}
                  {own?.fault != null && <span className="pencil"> ({own.fault})</span>}
                  {own && own.note !== "" && <span className="soft d-block">{own.note}</span>}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <Services
        rows={services}
        criteria={criteria}
        link={(n) => `/papers/${paper.id}/pings/${pings.length + n + 1}`}
      />
    </div>
  );
}
