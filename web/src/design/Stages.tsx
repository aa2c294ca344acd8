import { useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import type { Key } from "./keys";

type Stage = Schemas["StageRef"];

/** The stage that the address names; empty stands for the last one. */
export function useStage(): [string, (stage: string) => void] {
  const [search, setSearch] = useSearchParams();
  return [search.get("stage") ?? "", (stage) => setSearch(stage === "" ? {} : { stage })];
}

/** An address with the stage that is looked at. */
export const atStage = (path: string, stage: string) =>
  stage === "" ? path : `${path}?stage=${encodeURIComponent(stage)}`;

/** The key that turns to the next stage, where there are several. */
export const stageKey = (stages: Stage[], stage: string, onTurn: (stage: string) => void): Key[] => {
  const next = stages[(stages.findIndex((own) => own.id === stage) + 1) % stages.length];
  return stages.length > 1 && next ? [{ key: "t", does: "next stage", run: () => onTurn(next.id) }] : [];
};

interface Props {
  stages: Stage[];
  stage: string;
  onTurn: (stage: string) => void;
}

/** The stages of a lab, to turn to. */
export function Stages({ stages, stage, onTurn }: Props) {
  if (stages.length < 2) return null;
  return (
    <nav aria-label="Stages of the lab" className="stages">
      {stages.map((own) => (
        <button
          key={own.id}
          type="button"
          aria-current={own.id === stage ? "page" : undefined}
          onClick={() => onTurn(own.id)}
        >
          {own.title}
        </button>
      ))}
    </nav>
  );
}
