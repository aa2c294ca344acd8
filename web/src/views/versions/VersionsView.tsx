import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useHistory, useSaveLab, useVersion } from "../../api/queries";
import { View, Waiting } from "../../design/View";
import { count, inWords, moment } from "../../design/words";
import "./versions.css";

/** All saved versions of a lab: what became of it in each, in sentences, and the way back. */
export function VersionsView() {
  const { slug = "" } = useParams();
  const history = useHistory(slug);
  if (history.data === undefined) return <Waiting error={history.error} />;
  return <Loaded key={slug} slug={slug} versions={history.data} />;
}

function Loaded({ slug, versions }: { slug: string; versions: Schemas["VersionRef"][] }) {
  const navigate = useNavigate();
  const save = useSaveLab(slug);
  const [number, setNumber] = useState(versions[0]?.number ?? 1);
  const version = useVersion(slug, number);
  const newest = versions[0]?.number ?? 1;
  const at = versions.findIndex((one) => one.number === number);
  const turn = (by: number) => () =>
    setNumber(versions[Math.min(Math.max(at + by, 0), versions.length - 1)]?.number ?? number);
  const shown = version.data;
  if (shown === undefined) return <Waiting error={version.error} />;
  const back = () => {
    if (shown.number === number && number !== newest)
      save.mutate({ text: shown.text, base: newest }, { onSuccess: (saved) => setNumber(saved.version) });
  };
  return (
    <View
      lab={{ slug, title: shown.title }}
      title={`${inWords(versions.length, true)} ${versions.length === 1 ? "version" : "versions"}`}
      about="Every version that was saved is kept. Going back saves the old text as a new version."
      keys={[
        { key: "↑", on: ["ArrowUp"], does: "newer version", run: turn(-1) },
        { key: "↓", on: ["ArrowDown"], does: "older version", run: turn(1) },
        ...(number === newest ? [] : [{ key: "b", does: "go back to it", run: back }]),
        { key: "e", does: "edit text", run: () => void navigate(`/labs/${slug}/text`) },
        { key: "Esc", on: ["Escape"], does: "the lab", run: () => void navigate(`/labs/${slug}`) },
      ]}
      side={
        <section>
          <h2>Version {shown.number}</h2>
          <p className="soft">saved {moment(shown.saved_at)}</p>
          {number === newest ? (
            <p>The lab is this version.</p>
          ) : (
            <button
              type="button"
              className="btn btn-primary"
              disabled={save.isPending || shown.number !== number}
              onClick={back}
            >
              Go back to version {number}
            </button>
          )}
          {save.data && <p role="status">Saved as version {save.data.version}.</p>}
          {save.error && <p className="pencil">{save.error.message}</p>}
        </section>
      }
    >
      <div className="paper-desk">
        <nav aria-label="Versions" className="pages">
          {versions.map((one) => (
            <button
              key={one.number}
              type="button"
              aria-current={one.number === number}
              onClick={() => setNumber(one.number)}
            >
              <span>version {one.number}</span>
            </button>
          ))}
        </nav>
        <Changes version={shown} />
      </div>
    </View>
  );
}

/** What became of the lab in a version, by place. */
function Changes({ version }: { version: Schemas["VersionView"] }) {
  const { changes, against } = version;
  if (against === null)
    return <p className="soft">This is the first version: there is nothing to compare it with.</p>;
  if (changes.length === 0)
    return (
      <p className="soft">
        Nothing that the lab means was changed since version {against}, only how it is written.
      </p>
    );
  const places = [...new Set(changes.map(placeOf))];
  return (
    <div>
      <p className="soft">
        {count(changes.length, "change")} since version {against}
      </p>
      {places.map((place) => (
        <section key={place} className="changes">
          <h2>{TITLES[place] ?? place}</h2>
          <ul>
            {changes
              .filter((change) => placeOf(change) === place)
              .map((change, n) => (
                <li key={n}>{change.said}</li>
              ))}
          </ul>
        </section>
      ))}
    </div>
  );
}

const TITLES: Record<string, string> = {
  "": "The lab",
  links: "Links",
  networks: "Networks",
  pings: "Pings and checks",
  scheme: "Scheme",
};

const placeOf = ({ stage, place }: Schemas["ChangeShape"]) =>
  [stage === "" ? "" : `stage ${stage}`, place].filter((words) => words !== "").join(", ");
