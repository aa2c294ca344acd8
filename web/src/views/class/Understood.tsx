import { Link } from "react-router";
import { Bar, BarChart, CartesianGrid, Scatter, ScatterChart, Tooltip, XAxis, YAxis } from "recharts";
import type { Schemas } from "../../api/client";
import { atOccasion, occasionOf } from "../../api/occasion";
import { count, marks } from "../../design/words";

const WIDTH = 384;
const HEIGHT = 220;

const share = (value: number) => `${Math.round(100 * value)} %`;
const figure = (value: number | null) => (value === null ? "–" : value.toFixed(2));

/** What the class did not understand: each plot with its table, readable in print and without colour. */
export function Understood({ view }: { view: Schemas["ClassView"] }) {
  const spread = view.distribution;
  if (spread === null) return <p className="soft">There is nothing to say before papers are marked.</p>;
  const bars = spread.bars.map((learners, n) => ({ from: `${n * 10}`, learners }));
  const points = view.items
    .filter((item) => item.discrimination !== null)
    .map((item) => ({ id: item.id, difficulty: item.difficulty, discrimination: item.discrimination }));
  const missed = view.items.filter((item) => item.missed_by_strong);
  const papers = new Map(
    view.learners.flatMap((row) => (row.paper === null ? [] : [[row.learner, row.paper]])),
  );
  return (
    <div className="understood">
      <div className="plots">
        <figure>
          <figcaption>Learners by per cent of the marks</figcaption>
          <BarChart width={WIDTH} height={HEIGHT} data={bars} margin={{ left: -24, right: 4, top: 8 }}>
            <CartesianGrid vertical={false} stroke="var(--rule-faint)" />
            <XAxis dataKey="from" tick={{ fill: "var(--ink-soft)", fontSize: 12 }} />
            <YAxis allowDecimals={false} tick={{ fill: "var(--ink-soft)", fontSize: 12 }} />
            <Tooltip cursor={{ fill: "var(--action-tint)" }} />
            <Bar dataKey="learners" fill="var(--action)" isAnimationActive={false} />
          </BarChart>
        </figure>
        <figure>
          <figcaption>Criteria: how much is earned, and how well that tells strong from weak</figcaption>
          <ScatterChart width={WIDTH} height={HEIGHT} margin={{ left: -16, right: 8, top: 8 }}>
            <CartesianGrid stroke="var(--rule-faint)" />
            <XAxis
              type="number"
              dataKey="difficulty"
              domain={[0, 1]}
              tick={{ fill: "var(--ink-soft)", fontSize: 12 }}
            />
            <YAxis
              type="number"
              dataKey="discrimination"
              domain={[-1, 1]}
              tick={{ fill: "var(--ink-soft)", fontSize: 12 }}
            />
            <Tooltip cursor={false} />
            <Scatter data={points} fill="var(--action)" isAnimationActive={false} />
          </ScatterChart>
        </figure>
      </div>
      <p>
        {count(spread.learners, "learner")}: lower quartile {marks(spread.lower)}, median{" "}
        {marks(spread.median)}, upper quartile {marks(spread.upper)}, mean {marks(spread.mean)}, standard
        deviation {marks(spread.deviation)}; from {marks(spread.least)} to {marks(spread.most)} of{" "}
        {marks(spread.out_of)}. Alpha of the scheme: {figure(view.reliability.alpha)}.
      </p>
      {missed.length > 0 && (
        <p>
          <b>The strongest quarter misses, too:</b> {missed.map((item) => item.id).join(", ")}.
        </p>
      )}
      <h2>Criteria, the hardest first</h2>
      <table className="table">
        <thead>
          <tr>
            <th scope="col">Criterion</th>
            <th scope="col" className="number">
              Earned
            </th>
            <th scope="col" className="number">
              Discrimination
            </th>
            <th scope="col" className="number">
              Strongest quarter
            </th>
            <th scope="col" className="number">
              Alpha without it
            </th>
          </tr>
        </thead>
        <tbody>
          {[...view.items]
            .sort((a, b) => a.difficulty - b.difficulty)
            .map((item) => (
              <tr key={item.id}>
                <td className="mono">{item.id}</td>
                <td className="number">{share(item.difficulty)}</td>
                <td className="number">{figure(item.discrimination)}</td>
                <td className="number">{share(item.strong)}</td>
                <td className="number">{figure(view.reliability.without[item.id] ?? null)}</td>
              </tr>
            ))}
        </tbody>
      </table>
      <h2>
        {view.clusters.length === 0 ? "No group of papers goes wrong alike" : "Papers that go wrong alike"}
      </h2>
      {view.clusters.map((cluster) => (
        <p key={cluster.learners.join()}>
          <b>{cluster.learners.join(", ")}</b>:{" "}
          {cluster.shared.join("; ") || "different mistakes of the same kind"}
        </p>
      ))}
      <h2>
        {view.pairs.length === 0
          ? "No two papers share seldom mistakes"
          : "Questions to ask: papers that share seldom mistakes"}
      </h2>
      {view.pairs.map((pair) => (
        <p key={pair.a + pair.b}>
          <Link to={`/papers/${papers.get(pair.a) ?? 0}`}>{pair.a}</Link> and{" "}
          <Link to={`/papers/${papers.get(pair.b) ?? 0}`}>{pair.b}</Link>{" "}
          <span className="soft">
            share {pair.shared.join("; ")} ({pair.weight} bits)
          </span>{" "}
          <Link
            to={atOccasion(`/labs/${view.slug}/alike`, occasionOf(view), {
              a: String(papers.get(pair.a) ?? 0),
              b: String(papers.get(pair.b) ?? 0),
            })}
          >
            side by side
          </Link>
        </p>
      ))}
    </div>
  );
}
