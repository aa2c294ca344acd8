import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useLab } from "../../api/queries";
import { atStage, stageKey, Stages, useStage } from "../../design/Stages";
import { View, Waiting } from "../../design/View";
import { count } from "../../design/words";
import { Services } from "./Services";

/** The lab's pings with what the model answer makes of them; each opens its journey. */
export function PingsView() {
  const { slug = "" } = useParams();
  const [wanted, setStage] = useStage();
  const lab = useLab(slug, wanted);
  const navigate = useNavigate();
  const [at, setAt] = useState(0);
  if (lab.data === undefined) return <Waiting error={lab.error} />;
  const { pings, services, stages, stage } = lab.data;
  const turn = (to: string) => {
    setStage(to);
    setAt(0);
  };
  const journey = (n: number) => atStage(`/labs/${slug}/pings/${n}`, stage);
  const failing = [...pings, ...services].filter((p) => p.as_expected === false);
  const all =
    services.length === 0
      ? count(pings.length, "ping")
      : `${count(pings.length, "ping")} and ${count(services.length, "service check")}`;
  return (
    <View
      lab={lab.data}
      title={
        pings.length === 0
          ? "No pings yet"
          : failing.length === 0
            ? `All ${all} hold on the model answer`
            : `${failing.length} of ${all} do not hold on the model answer`
      }
      about="In this order, each with what it has to come to and what the model answer makes of it."
      keys={[
        { key: "↑", on: ["ArrowUp"], does: "previous ping", run: () => setAt(Math.max(0, at - 1)) },
        {
          key: "↓",
          on: ["ArrowDown"],
          does: "next ping",
          run: () => setAt(Math.min(pings.length - 1, at + 1)),
        },
        { key: "Enter", does: "its journey", run: () => void navigate(journey(at + 1)) },
        ...stageKey(stages, stage, turn),
        { key: "l", does: "the lab", run: () => void navigate(atStage(`/labs/${slug}`, stage)) },
      ]}
      side={<Chosen ping={pings[at]} link={journey(at + 1)} />}
    >
      <Stages stages={stages} stage={stage} onTurn={turn} />
      <table className="table rows">
        <thead>
          <tr>
            <th scope="col">Ping</th>
            <th scope="col">From</th>
            <th scope="col">To</th>
            <th scope="col">Expected</th>
            <th scope="col">Model answer</th>
          </tr>
        </thead>
        <tbody>
          {pings.map((ping, n) => (
            <tr
              key={ping.id}
              aria-current={n === at}
              onMouseEnter={() => setAt(n)}
              onClick={() => void navigate(journey(n + 1))}
            >
              <td className="mono">{ping.id}</td>
              <td className="mono">
                <Link to={journey(n + 1)}>
                  {ping.from}
                  {ping.source !== null && ` ${ping.source}`}
                </Link>
              </td>
              <td className="mono">{ping.to}</td>
              <td>{ping.expect}</td>
              <td>{ping.as_expected === false ? <b>{ping.outcome}: does not hold</b> : ping.outcome}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Services rows={lab.data.services} link={(n) => journey(pings.length + n + 1)} />
    </View>
  );
}

function Chosen({ ping, link }: { ping: Schemas["PingRow"] | undefined; link: string }) {
  if (ping === undefined)
    return (
      <p className="soft">Write pings into the lab&apos;s text: from whom, to whom, and what to expect.</p>
    );
  return (
    <section>
      <h2>
        {ping.from} to {ping.to}
      </h2>
      <p className="mt-2">
        {ping.outcome}: {ping.detail}.
      </p>
      {ping.seen_as !== null && (
        <p className="mt-2">
          {ping.answered_by} sees it as <span className="mono">{ping.seen_as}</span>.
        </p>
      )}
      <p className="soft">
        There: {ping.there.join(", ")}.{ping.back.length > 0 && <> Back: {ping.back.join(", ")}.</>}
      </p>
      <Link to={link}>Follow its journey</Link>
    </section>
  );
}
