import { useEffect, useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { useWork } from "../../authoring/Authoring";
import { completeIn, type Look } from "../../authoring/calls";
import { Aside, Told } from "../../authoring/Told";
import type { Side } from "../../api/queries";
import { atStage } from "../../design/Stages";
import { View, Waiting } from "../../design/View";
import { count, inSentence, inWords } from "../../design/words";
import { Editor, type EditorHandle } from "../../editor/Editor";
import { useEditorKeys } from "../../editor/keys";
import { ofDiagnostic } from "../../editor/remarks";
import { Remarks } from "../../editor/Remarks";
import { Saving } from "../../editor/Saving";
import { SheetText } from "../../sheet/SheetText";

const SIDES: Record<Side, string> = {
  answer: "the model answer",
  given: "what is given",
  start: "what learners begin with",
};

const ABOUT: Record<Side, string> = {
  answer: "All that a full paper has on this device beyond what is given.",
  given: "Already in place: learners add to it.",
  start: "Learners begin with this sheet and may change it.",
};

/** One sheet of a lab: written with remarks, mends and completion; every other view follows as it is typed. */
export function SheetView() {
  const { side = "answer", device = "" } = useParams();
  const { look } = useWork();
  if (look === null) return <Waiting error={null} />;
  if (!look.devices.some((d) => d.device === device) || !(side in SIDES))
    return <Waiting error={new Error("There is no such sheet in this lab.")} />;
  return <Loaded key={`${look.stage} ${side} ${device}`} look={look} side={side as Side} device={device} />;
}

function Loaded({ look, side, device }: { look: Look; side: Side; device: string }) {
  const navigate = useNavigate();
  const { work } = useWork();
  const editor = useRef<EditorHandle>(null);
  const own = look.devices.find((d) => d.device === device);
  const { stage } = look;
  const stageTitle = look.stages.find((one) => one.id === stage)?.title;
  const there = own?.[side] ?? "";
  const typed = useRef(there);
  const [remarked, setRemarked] = useState(look.remarks);
  useEffect(() => {
    work.watch({ side, device });
    return () => work.watch(null);
  }, [work, side, device]);
  useEffect(() => {
    // what others changed is taken over; what is typed here and on its way is not
    if (there.trimEnd() === typed.current.trimEnd() || work.pendingSheet(side, device) !== null) return;
    typed.current = there;
    editor.current?.follow(there);
  }, [there, work, side, device]);
  const fresh = look.remarks;
  if (fresh !== null && fresh !== remarked && fresh.device === device && fresh.side === side)
    setRemarked(fresh);
  const change = (text: string) => {
    typed.current = text;
    work.typeSheet({ side, device }, text);
  };
  const remarks = remarked?.diagnostics.map(ofDiagnostic) ?? [];
  const errors = remarks.filter((r) => r.severity === "error");
  const failing = look.pings.filter((p) => p.as_expected === false);
  const keys = useEditorKeys(
    () => void work.save(),
    () => void navigate(atStage(`/labs/${work.slug}`, stage)),
    true,
  );
  return (
    <View
      lab={{ slug: work.slug, title: look.title, stage }}
      title={`${device}: ${errors.length === 0 ? SIDES[side] : `${inWords(errors.length)} to mend`}`}
      about={stageTitle === undefined ? ABOUT[side] : `${stageTitle}: ${inSentence(ABOUT[side])}`}
      aside={<Aside plain />}
      keys={keys}
      typed
      side={
        <>
          <Told />
          <section>
            <h2>{remarks.length === 0 ? "Nothing to say of it" : said(remarks.length, errors.length)}</h2>
            <Remarks
              remarks={remarks}
              onGoTo={(line) => editor.current?.goTo(line)}
              onMend={(remark) => editor.current?.mend(remark)}
            />
            {remarked !== null && remarked.more > 0 && <p className="soft">And {remarked.more} more.</p>}
            <Saving onSave={() => void work.save()} />
          </section>
          {look.pings.length > 0 && (
            <section>
              <h2>
                {failing.length === 0
                  ? `All ${count(look.pings.length, "ping")} hold`
                  : `${failing.length} of ${count(look.pings.length, "ping")} do not hold`}
              </h2>
              {failing.slice(0, 6).map((ping) => (
                <div className="entry" key={ping.id}>
                  <p>
                    <b>
                      {ping.from} to {ping.to}
                    </b>
                    , expected {ping.expect}
                  </p>
                  <p className="soft">
                    {ping.outcome}: {ping.detail}
                  </p>
                </div>
              ))}
            </section>
          )}
          {side !== "given" && own?.given != null && (
            <section>
              <h2>Given for {device}</h2>
              <SheetText text={own.given} />
            </section>
          )}
          {remarked !== null && remarked.joined !== "" && (
            <details className="notes">
              <summary>Joined with what is given, in canonical form</summary>
              <SheetText text={remarked.joined} />
            </details>
          )}
          <p className="soft">
            This sheet stands in <Link to={`/labs/${work.slug}/text`}>the lab&apos;s text</Link>; typing here
            changes nothing else there.
          </p>
        </>
      }
    >
      <Editor
        ref={editor}
        language="sheet"
        label={`The sheet of ${device}`}
        initial={work.pendingSheet(side, device) ?? there}
        remarks={remarks}
        about={there}
        onAsk={(text, line, column) =>
          completeIn({ text: work.state.text, stage, sheet: null, device, typed: text, line, column })
        }
        onChange={change}
      />
    </View>
  );
}

const said = (all: number, errors: number) =>
  errors === 0 ? `${count(all, "remark")}, none of them an error` : `${inWords(errors, true)} to mend`;
