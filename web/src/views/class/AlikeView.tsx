import { Link, useParams, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { atOccasion, occasionOf } from "../../api/occasion";
import { useClass, usePaper } from "../../api/queries";
import { useOccasion } from "../../design/occasion";
import { View, Waiting } from "../../design/View";

type Paper = Schemas["PaperView"];

/** Two papers side by side, with the seldom things that they share: a question to ask, and never a verdict. */
export function AlikeView() {
  const { slug = "" } = useParams();
  const [search] = useSearchParams();
  const occasion = useOccasion();
  const [a, b] = [Number(search.get("a")), Number(search.get("b"))];
  const [one, other] = [usePaper(a), usePaper(b)];
  const found = useClass(slug, occasion);
  const error = one.error ?? other.error ?? found.error;
  if (one.data === undefined || other.data === undefined || found.data === undefined)
    return <Waiting error={error} />;
  const view = found.data;
  const names = [one.data.learner, other.data.learner];
  const pair = view.pairs.find((own) => names.includes(own.a) && names.includes(own.b));
  const devices = one.data.sheets.filter((sheet) => sheet.text !== null).map((sheet) => sheet.device);
  return (
    <View
      lab={{ slug, title: view.lab, stage: view.stage, sitting: view.sitting }}
      title={`${names[0] ?? ""} and ${names[1] ?? ""}: a question to ask`}
      about={
        pair
          ? `They share what few others have: ${pair.shared.join("; ")}.`
          : "They share no more seldom mistakes than others do."
      }
      aside={
        <Link className="place" to={atOccasion(`/labs/${slug}/class`, occasionOf(view))}>
          the class
        </Link>
      }
    >
      <div className="alike">
        <h2>
          <Link to={`/papers/${a}`}>{names[0]}</Link>
        </h2>
        <h2>
          <Link to={`/papers/${b}`}>{names[1]}</Link>
        </h2>
        {devices.map((device) => (
          <Device key={device} device={device} one={one.data} other={other.data} />
        ))}
      </div>
    </View>
  );
}

/** A device's sheets beside each other; lines that only one of them has are marked. */
function Device({ device, one, other }: { device: string; one: Paper; other: Paper }) {
  const text = (paper: Paper) => paper.sheets.find((sheet) => sheet.device === device)?.text ?? "";
  const lines = (paper: Paper) => text(paper).split("\n");
  const told = (line: string) => line.trim().toLowerCase();
  const sheet = (paper: Paper, beside: Paper) => {
    const there = new Set(lines(beside).map(told));
    return (
      <section>
        <h3>{device}</h3>
        <pre className="mono">
          {lines(paper).map((line, n) => (
            <span key={n} className={there.has(told(line)) ? undefined : "only-here"}>
              {line}
              {"\n"}
            </span>
          ))}
        </pre>
      </section>
    );
  };
  return (
    <>
      {sheet(one, other)}
      {sheet(other, one)}
    </>
  );
}
