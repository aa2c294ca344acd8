import { useEffect, useState } from "react";
import type { Schemas } from "../api/client";
import type { Key } from "../design/keys";
import { moment } from "../design/words";
import { useWork } from "./Authoring";
import { draftOf, draftsOf, dropDraft } from "./calls";
import { windowName } from "./window";
import type { Work } from "./Work";

/** The keys that every view of a lab that is worked on has. */
export const workKeys = (work: Work): Key[] => [
  { key: "u", on: ["u", "Ctrl+z"], does: "undo", run: work.undo },
  { key: "Shift+U", on: ["U", "Ctrl+y"], does: "redo", run: work.redo, more: true },
  { key: "Ctrl+S", on: ["Ctrl+s"], does: "save", run: () => void work.save() },
];

/** How it stands with saving: at the head of the view; `plain` where the view has its own button for it. */
export function Aside({ plain = false }: { plain?: boolean }) {
  const { work, state } = useWork();
  const undone = state.undone > 0 ? ` · undo ${state.undone}` : "";
  return (
    <span className="work-aside">
      {work.changed ? `changed, not saved${undone}` : `saved as version ${state.version}${undone}`}
      {work.changed && !plain && (
        <button type="button" className="place" onClick={() => void work.save()}>
          save as version {state.version + 1}
        </button>
      )}
    </span>
  );
}

/** What has to be told of the work: why an edit was refused, who else works on the lab, what somebody saved. */
export function Told() {
  const { work, state } = useWork();
  const behind = state.base !== state.version && work.changed;
  return (
    <div role="status">
      {state.refused !== "" && (
        <div className="said">
          <p>{state.refused}</p>
          {state.refusedAt.slice(0, 4).map((place, n) => (
            <p key={n}>
              Line {place.line}: {place.message}
            </p>
          ))}
        </div>
      )}
      {behind && (
        <div className="noted">
          Somebody has saved version {state.version} meanwhile; yours begins with version {state.base}.{" "}
          <button type="button" className="place" onClick={work.rebase}>
            Put mine on top of it
          </button>
          {", "}
          <button type="button" className="place" onClick={work.revert}>
            take theirs
          </button>
          .
        </div>
      )}
      <Others />
    </div>
  );
}

/** Drafts of the lab that other windows have not saved: each can be taken over, or forgotten. */
function Others() {
  const { work, state } = useWork();
  const [drafts, setDrafts] = useState<Schemas["DraftRef"][]>([]);
  useEffect(() => {
    let gone = false;
    const ask = () =>
      void draftsOf(work.slug).then(
        (found) => !gone && setDrafts(found.drafts.filter((d) => d.window !== windowName())),
        () => undefined, // asked again when the window is turned to
      );
    ask();
    window.addEventListener("focus", ask);
    return () => {
      gone = true;
      window.removeEventListener("focus", ask);
    };
  }, [work, state.version]);
  const forget = (name: string) => setDrafts((all) => all.filter((d) => d.window !== name));
  return drafts.map((draft) => (
    <div className="noted" key={draft.window}>
      Another window changed this lab and has not saved it, last on {moment(draft.kept_at)}
      {draft.base !== state.version && `, on top of version ${draft.base}`}.{" "}
      <button
        type="button"
        className="place"
        onClick={() =>
          void draftOf(work.slug, draft.window).then(({ text }) => {
            work.type(text);
            forget(draft.window);
          })
        }
      >
        Take it over here
      </button>
      {", "}
      <button
        type="button"
        className="place"
        onClick={() => {
          void dropDraft(work.slug, draft.window);
          forget(draft.window);
        }}
      >
        forget it
      </button>
      .
    </div>
  ));
}
