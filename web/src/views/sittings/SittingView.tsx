import { useNavigate, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { atOccasion } from "../../api/occasion";
import { useRelease, useRemoveSitting, useSitting } from "../../api/sittings";
import { Log } from "../../design/Log";
import { View, Waiting } from "../../design/View";
import { moment } from "../../design/words";
import { Moving } from "./Moving";
import { Rules } from "./Rules";
import { Seats } from "./Seats";
import { howFar } from "./SittingsView";
import "./sittings.css";

/** A sitting: its rules, its learners with their numbers, and what was changed. */
export function SittingView() {
  const { number = "" } = useParams();
  const found = useSitting(Number(number));
  if (found.data === undefined) return <Waiting error={found.error} />;
  return <Loaded sitting={found.data} />;
}

function Loaded({ sitting }: { sitting: Schemas["SittingView"] }) {
  const navigate = useNavigate();
  const release = useRelease(sitting.number);
  const remove = useRemoveSitting();
  const { slug, title, lab, settings } = sitting;
  const occasion = { stage: "", sitting: sitting.number };
  const go = (name: string) => () => void navigate(atOccasion(`/labs/${slug}/${name}`, occasion));
  const held = sitting.released === null;
  return (
    <View
      lab={{ slug, title: lab, sitting: { number: sitting.number, title, blind: settings.blind && held } }}
      title={`${title}: ${sitting.progress.handed_in} of ${sitting.progress.learners} handed in`}
      about={`${lab}${sitting.stage === "" ? "" : `, ${sitting.stage}`}, version ${sitting.version}; ${howFar(sitting)}`}
      keys={[
        { key: "g", does: "the class", run: go("class") },
        { key: "p", does: "the papers", run: go("papers") },
        { key: "l", does: "the lab", run: () => void navigate(`/labs/${slug}`) },
        { key: "Esc", on: ["Escape"], does: "all sittings", run: () => void navigate("/sittings") },
      ]}
      side={
        <>
          <section>
            <h2>{held ? "The marks are held" : "The marks are released"}</h2>
            <p className="soft">
              {sitting.released === null
                ? settings.blind
                  ? "Names are not shown before they are released."
                  : "Release them when they are final."
                : `Since ${moment(sitting.released)}.`}
            </p>
            <button
              type="button"
              className="as-link"
              disabled={release.isPending}
              onClick={() => release.mutate(held)}
            >
              {held ? "Release the marks" : "Hold them again"}
            </button>
          </section>
          <Moving sitting={sitting} />
          <section>
            <h2>What was changed</h2>
            {sitting.log.length === 0 && <p className="soft">Nothing yet.</p>}
            <Log entries={sitting.log.slice(0, 40)} />
          </section>
          <section>
            <p className="mb-1">
              <a href={`/archives/${sitting.number}.zip`}>Keep it as one file</a>
            </p>
            <button
              type="button"
              className="as-link"
              onClick={() => remove.mutate(sitting.number, { onSuccess: () => void navigate("/sittings") })}
            >
              Take this sitting off the list
            </button>
            <span className="soft"> Nothing of it is lost.</span>
          </section>
        </>
      }
    >
      <Rules key={JSON.stringify(settings)} sitting={sitting} />
      <Seats sitting={sitting} />
    </View>
  );
}
