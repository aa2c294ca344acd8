import type { Leg } from "../../weave/trace";

/** The packets of a journey at one device: as they came in and as they went out, next to each other. */
export function BothSides({ legs, device, at }: { legs: Leg[]; device: string; at: Leg }) {
  const own = legs.filter((leg) => leg.device === device);
  const differs = (a: string | undefined, b: string | undefined) =>
    a !== undefined && b !== undefined && a !== b;
  return (
    <section>
      <h2>Both sides of {device}</h2>
      <table className="table both-sides">
        <thead>
          <tr>
            <th scope="col">packet</th>
            <th scope="col">came in</th>
            <th scope="col">went out</th>
          </tr>
        </thead>
        <tbody>
          {own.map((leg) => (
            <tr key={leg.number} aria-current={leg === at}>
              <td>
                {leg.number}, {leg.way}
              </td>
              <td className="mono">
                {leg.enters ?? "its own"}
                <br />
                {leg.source}
                <br />
                {leg.destination}
              </td>
              <td className="mono">
                {leg.leaves ?? "goes no further"}
                <br />
                <Changed value={leg.sent?.source} bold={differs(leg.source, leg.sent?.source)} />
                <br />
                <Changed
                  value={leg.sent?.destination}
                  bold={differs(leg.destination, leg.sent?.destination)}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

const Changed = ({ value, bold }: { value: string | undefined; bold: boolean }) =>
  bold ? <b>{value}</b> : <>{value}</>;
