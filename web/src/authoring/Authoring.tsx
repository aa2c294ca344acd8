import { createContext, useContext, useEffect, useState, useSyncExternalStore } from "react";
import { Outlet, useParams } from "react-router";
import { useLab } from "../api/queries";
import { useStage } from "../design/Stages";
import { Waiting } from "../design/View";
import type { Look } from "./calls";
import { Work, type State } from "./Work";

const works = new Map<string, Work>();
const Context = createContext<Work | null>(null);

/** The frame of all views of a lab that is worked on: they share its text, and what can be undone of it. */
export function Authoring() {
  const { slug = "" } = useParams();
  const lab = useLab(slug);
  if (lab.data === undefined) return <Waiting error={lab.error} />;
  return <Of key={slug} slug={slug} text={lab.data.text} version={lab.data.version} />;
}

function Of({ slug, text, version }: { slug: string; text: string; version: number }) {
  const [work] = useState(() => {
    const known = works.get(slug) ?? new Work(slug, { text, version });
    works.set(slug, known);
    return known;
  });
  const [stage] = useStage();
  useEffect(() => work.newest(text, version), [work, text, version]);
  useEffect(() => work.turn(stage), [work, stage]);
  return (
    <Context value={work}>
      <Shown work={work} />
    </Context>
  );
}

function Shown({ work }: { work: Work }) {
  const { look, unread } = useSyncExternalStore(work.subscribe, work.snapshot);
  if (look === null && unread.length === 0) return <Waiting error={null} />;
  return <Outlet />;
}

/** The lab that is worked on, and its state; `look` is what is shown of it, null where no text could be read yet. */
export function useWork(): { work: Work; state: State; look: Look | null } {
  const work = useContext(Context);
  if (work === null) throw new Error("This is no view of a lab.");
  const state = useSyncExternalStore(work.subscribe, work.snapshot);
  return { work, state, look: state.look };
}
