import { useState } from "react";
import { ToggleButton, ToggleButtonGroup } from "react-bootstrap";
import { Link, useNavigate, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useLab, type Side } from "../../api/queries";
import { atStage, stageKey, Stages, useStage } from "../../design/Stages";
import { View, Waiting } from "../../design/View";
import { count, inWords, marks, moment } from "../../design/words";
import { SheetText } from "../../sheet/SheetText";
import { knotOf, next, type Direction, type KnotData } from "../../weave/geometry";
import { Weave } from "../../weave/Weave";
import { Findings } from "./Findings";
import { SubnetNote } from "./SubnetNote";

const SIDES: Record<Side, string> = { given: "given", start: "to begin with", answer: "model answer" };

/** A lab: its weave, the sheets of the chosen device beside it, and what the lab check finds. */
export function LabView() {
  const { slug = "" } = useParams();
  const [stage, setStage] = useStage();
  const [at, setAt] = useState<LoadedProps["at"]>({ device: "", side: "answer" });
  const lab = useLab(slug, stage);
  if (lab.data === undefined) return <Waiting error={lab.error} />;
  const { version, stage: shown } = lab.data;
  return (
    <Loaded
      key={`${slug} ${version} ${shown}`}
      lab={lab.data}
      at={at}
      onStage={(to, device, side) => {
        setAt({ device, side });
        setStage(to);
      }}
    />
  );
}

interface LoadedProps {
  lab: Schemas["LabView"];
  /** The device and sheet to begin at, so that a stage is compared with the one that was looked at. */
  at: { device: string; side: Side };
  onStage: (stage: string, device: string, side: Side) => void;
}

function Loaded({ lab, at, onStage }: LoadedProps) {
  const navigate = useNavigate();
  const { weave, stage, stages } = lab;
  const [knot, setKnot] = useState<KnotData | undefined>(knotOf(weave, at.device) ?? weave.knots[0]);
  const [device, setDevice] = useState(weave.columns[knot?.column ?? 0]?.device ?? "");
  const [side, setSide] = useState<Side>(at.side);
  const turnStage = (to: string) => onStage(to, device, side);
  const choose = (chosen: KnotData | undefined) => {
    setKnot(chosen);
    const name = weave.columns[chosen?.column ?? -1]?.device;
    if (name !== undefined) setDevice(name);
  };
  const chooseDevice = (name: string) => {
    setDevice(name);
    setKnot(knotOf(weave, name));
  };
  const go = (direction: Direction) => () => choose(knot && next(weave, knot, direction));
  const turn = (step: number) => () => {
    const at = weave.columns.findIndex((c) => c.device === device);
    const name = weave.columns[(at + step + weave.columns.length) % weave.columns.length]?.device;
    if (name !== undefined) chooseDevice(name);
  };
  const sheets = lab.devices.find((d) => d.device === device);
  const sides: Side[] = lab.devices.some((d) => d.start !== null)
    ? ["given", "start", "answer"]
    : ["given", "answer"];
  const editSheet = atStage(`/labs/${lab.slug}/sheets/${side}/${device}`, stage);
  const handOut = atStage(`/hand-out/${lab.slug}`, stage);
  return (
    <View
      lab={lab}
      title={lab.title}
      about={`${count(lab.devices.length, "device")}, ${count(weave.rows.length, "network")}, ${marks(lab.out_of)} marks. ${linksSaid(weave)}`}
      aside={<span title={moment(lab.saved_at)}>saved as version {lab.version}</span>}
      keys={[
        { key: "← ↑ ↓ →", on: ["ArrowLeft"], does: "move", run: go("left") },
        { key: "d", does: "device", run: turn(1) },
        {
          key: "g",
          does: "given or answer",
          run: () => setSide(sides[(sides.indexOf(side) + 1) % sides.length] ?? "answer"),
        },
        { key: "s", does: "edit sheet", run: () => void navigate(editSheet) },
        { key: "v", does: "versions", run: () => void navigate(`/labs/${lab.slug}/versions`) },
        { key: "e", does: "edit text", run: () => void navigate(`/labs/${lab.slug}/text`) },
        { key: "i", does: "pings", run: () => void navigate(atStage(`/labs/${lab.slug}/pings`, stage)) },
        { key: "h", does: "hand out", run: () => window.open(handOut, "_blank", "noopener") },
        { key: "p", does: "papers", run: () => void navigate(atStage(`/labs/${lab.slug}/papers`, stage)) },
        ...stageKey(stages, stage, turnStage),
        ...(["Right", "Up", "Down"] as const).map((way) => ({
          key: `Arrow${way}`,
          does: "",
          hidden: true,
          run: go(way.toLowerCase() as Direction),
        })),
      ]}
      side={
        <>
          <section>
            <div className="d-flex justify-content-between align-items-center mb-3">
              <h2>{device}</h2>
              <ToggleButtonGroup type="radio" name="side" size="sm" value={side} onChange={setSide}>
                {sides.map((one) => (
                  <ToggleButton key={one} id={`side-${one}`} value={one} variant="light">
                    {SIDES[one]}
                  </ToggleButton>
                ))}
              </ToggleButtonGroup>
            </div>
            {sheets?.[side] == null ? (
              <p className="soft">{nothing(side, device)}</p>
            ) : (
              <SheetText text={sheets[side]} />
            )}
            {sheets !== undefined && <StageBefore sheets={sheets} />}
            <p className="mt-2 mb-0">
              <Link to={editSheet}>{sheets?.[side] == null ? "Write one" : "Edit this sheet"}</Link>
            </p>
          </section>
          <Findings lab={lab} />
        </>
      }
    >
      <Stages stages={stages} stage={stage} onTurn={turnStage} />
      <Weave weave={weave} selected={knot} onSelect={choose} device={device} onDevice={chooseDevice} />
      <SubnetNote weave={weave} knot={knot} />
    </View>
  );
}

/** What a device brings along from the stage before, and what this stage takes away of it. */
function StageBefore({ sheets }: { sheets: Schemas["DeviceSheets"] }) {
  if (sheets.before === null) return null;
  return (
    <>
      {sheets.taken.length > 0 && (
        <p className="mt-2 mb-0">
          Taken away: <span className="mono">{sheets.taken.join(", ")}</span>
        </p>
      )}
      <details className="notes">
        <summary>At the end of the stage before</summary>
        {sheets.before === "" ? <p className="soft">nothing</p> : <SheetText text={sheets.before} />}
      </details>
    </>
  );
}

function nothing(side: Side, device: string): string {
  if (side === "given") return `Nothing is given for ${device}: learners begin with an empty sheet.`;
  if (side === "start") return `Learners begin with no sheet for ${device}.`;
  return `The model answer has nothing for ${device} beyond what is given.`;
}

function linksSaid(weave: Schemas["WeaveShape"]): string {
  const down = weave.down.length;
  if (weave.links === 0) return "No links yet.";
  if (down > 0)
    return `${inWords(down, true)} ${down === 1 ? "link is" : "links are"} down: ${weave.down.join(", ")}.`;
  return weave.links === 1 ? "Its link is up." : `All ${weave.links} links are up.`;
}
