import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { useWork } from "../../authoring/Authoring";
import { completeIn } from "../../authoring/calls";
import { useKept } from "../../authoring/useKept";
import { turned } from "../../bench/changes";
import { useBench } from "../../bench/useBench";
import { atStage, Stages, useStage } from "../../design/Stages";
import { View, Waiting } from "../../design/View";
import { inWords } from "../../design/words";
import { Editor, type EditorHandle } from "../../editor/Editor";
import { ofDiagnostic } from "../../editor/remarks";
import { Remarks } from "../../editor/Remarks";
import { formOf } from "../../sheet/forms";
import { SheetText } from "../../sheet/SheetText";
import { explained, ownerOf } from "./explain";
import { Ask } from "./Ask";
import { Keep } from "./Keep";
import { Moments } from "./Moments";
import { PingsTable } from "./PingsTable";
import { Start } from "./Start";
import { StatePanel, PANELS, type Panel } from "./StatePanel";
import "./bench.css";

/** The bench: the sheets of all devices in an editor, and beside it what their network does, as they are typed. */
export function BenchView() {
  const { look, state } = useWork();
  const stage = look?.stage ?? state.stage;
  if (look === null) return <Waiting error={null} />;
  return <Loaded key={stage} />;
}

function Loaded() {
  const navigate = useNavigate();
  const { work, look } = useWork();
  const [, setStage] = useStage();
  const { bench, own } = useBench();
  const editor = useRef<EditorHandle>(null);
  const [panel, setPanel] = useKept<Panel>(`${work.slug} bench panel`, "state");
  const [at, setAt] = useState(0);
  const [asking, setAsking] = useState(false);
  const stage = look?.stage ?? "";
  if (look === null || own.look === null)
    return <Waiting error={own.said === "" ? null : new Error(own.said)} />;
  const devices = look.devices.map((d) => d.device);
  const { device, sheets } = own;
  const { rows } = own.look;
  const changed = turned(own.before, own.look);
  const holding = rows.filter((row) => row.as_expected === true).length;
  const listed = rows.filter((row) => row.as_expected !== null).length;
  const remarks = own.look.remarks.filter((r) => r.code !== "empty-sheet").map(ofDiagnostic);
  const turn = (by: number) => () => {
    const next = devices[(devices.indexOf(device) + by + devices.length) % devices.length];
    if (next !== undefined) bench.turn(next);
  };
  const journey = (number: number) =>
    void navigate(atStage(`/labs/${work.slug}/bench/pings/${number}`, stage));
  return (
    <View
      lab={{ slug: work.slug, title: look.title, stage }}
      title={`Bench: ${holding} of ${listed} as expected`}
      about={
        changed.size === 0
          ? "Sheets of all devices; what their network does follows as you type."
          : `${inWords(changed.size, true)} ${changed.size === 1 ? "ping" : "pings"} turned with the last edit.`
      }
      aside={<Start slug={work.slug} stage={stage} bench={bench} own={own} />}
      keys={[
        { key: "Ctrl+↑ ↓", on: ["Ctrl+arrowup"], does: "other device", run: turn(-1) },
        { key: "Ctrl+arrowdown", does: "", hidden: true, run: turn(1) },
        { key: "Ctrl+K", on: ["Ctrl+k"], does: "ask a ping", run: () => setAsking(true) },
        { key: "Ctrl+J", on: ["Ctrl+j"], does: "its journey", run: () => journey(at + 1) },
        { key: "Ctrl+M", on: ["Ctrl+m"], does: "keep this moment", run: bench.keepMoment },
        { key: "Ctrl+Z", on: ["Ctrl+z"], does: "undo, whichever device", run: bench.undo },
        { key: "Ctrl+Enter", on: [], does: "mend" },
        { key: "F12", on: [], does: "to the device that owns an address" },
        { key: "F4", on: [], does: "only routes, translations, this block", more: true },
        {
          key: "Ctrl+L",
          on: ["Ctrl+l"],
          does: "next table",
          run: () => setPanel(PANELS[(PANELS.indexOf(panel) + 1) % PANELS.length] ?? "state"),
        },
      ]}
      typed
    >
      <Stages stages={look.stages} stage={stage} onTurn={setStage} />
      {own.said !== "" && <p className="said">{own.said}</p>}
      <nav className="stages bench-devices" aria-label="Devices">
        {devices.map((name) => (
          <button
            key={name}
            type="button"
            aria-current={name === device ? "page" : undefined}
            onClick={() => bench.turn(name)}
          >
            {name}
          </button>
        ))}
      </nav>
      <div className="bench">
        <div className="bench-sheet">
          <Editor
            key={device}
            ref={editor}
            language="sheet"
            label={`The sheet of ${device}`}
            initial={sheets[device] ?? ""}
            text={sheets[device] ?? ""}
            remarks={remarks}
            about={own.about}
            ownUndo={false}
            onAsk={(text, line, column) =>
              completeIn({ text: work.state.text, stage, sheet: null, device, typed: text, line, column })
            }
            onChange={(text) => bench.type(device, text)}
            onExplain={(word) => explained(word, own.look)}
            onGo={(word) => {
              const owner = ownerOf(word, own.look);
              if (owner) bench.turn(owner.device);
            }}
          />
          <Remarks
            remarks={remarks.slice(0, 4)}
            onGoTo={(line) => editor.current?.goTo(line)}
            onMend={(remark) => editor.current?.mend(remark)}
          />
          {own.under[device] !== undefined && (
            <details className="notes">
              <summary>Given for {device}, below what you write</summary>
              <SheetText text={own.under[device]} />
            </details>
          )}
          {own.look.canonical !== "" && (
            <p className="port-acts mt-2">
              <button
                type="button"
                className="mend"
                onClick={() => own.look && bench.type(device, own.look.canonical)}
              >
                {formOf(own.sheets[device] ?? "") === "sheet"
                  ? "Bring into canonical form"
                  : "Write as a sheet"}
              </button>
            </p>
          )}
        </div>
        <StatePanel bench={bench} own={own} panel={panel} onPanel={setPanel} />
      </div>
      <div className="bench-below">
        <PingsTable
          look={own.look}
          changed={changed}
          at={at}
          onAt={setAt}
          onOpen={journey}
          onForget={bench.forget}
        />
        <div className="bench-beside">
          <Ask
            open={asking}
            look={own.look}
            bench={bench}
            onClose={() => setAsking(false)}
            onOpen={() => setAsking(true)}
          />
          <Moments bench={bench} own={own} />
          <Keep slug={work.slug} bench={bench} own={own} />
        </div>
      </div>
    </View>
  );
}
