import { nodeOf, type WeaveData } from "./geometry";

const nameOf = (weave: WeaveData, column: number) => {
  const own = weave.columns[column];
  return own && nodeOf(own);
};

/** The weave as a table, for readers who do not see the chart. */
export function WeaveTable({ weave }: { weave: WeaveData }) {
  return (
    <div className="visually-hidden">
      <table>
        <caption>Devices in their networks</caption>
        <thead>
          <tr>
            <th scope="col">Network</th>
            <th scope="col">Device</th>
            <th scope="col">Port</th>
            <th scope="col">Address</th>
            <th scope="col">State</th>
          </tr>
        </thead>
        <tbody>
          {weave.knots.map((knot) => (
            <tr key={`${knot.column} ${knot.row}`}>
              <th scope="row">
                {weave.rows[knot.row]?.name} {weave.rows[knot.row]?.prefix}
              </th>
              <td>{nameOf(weave, knot.column)}</td>
              <td>{knot.label}</td>
              <td>{knot.address ?? "none"}</td>
              <td>{knot.up ? "up" : "down"}</td>
            </tr>
          ))}
          {weave.columns.flatMap((column) =>
            column.loopbacks.map((loopback) => (
              <tr key={nodeOf(column) + loopback.name}>
                <th scope="row">loopback</th>
                <td>{nodeOf(column)}</td>
                <td>{loopback.name}</td>
                <td>{loopback.address}</td>
                <td>{loopback.on ? "up" : "off"}</td>
              </tr>
            )),
          )}
        </tbody>
      </table>
    </div>
  );
}
