import { useCallback, useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { checkSheet, completeSheet, useLab, useSaveSheet, type Side } from "../../api/queries";
import { atStage, useStage } from "../../design/Stages";
import { View, Waiting } from "../../design/View";
import { count, inSentence, inWords } from "../../design/words";
import { dropDraft } from "../../editor/drafts";
import { Editor, type EditorHandle } from "../../editor/Editor";
import { useEditorKeys } from "../../editor/keys";
import { ofDiagnostic } from "../../editor/remarks";
import { Remarks } from "../../editor/Remarks";
import { Saving } from "../../editor/Saving";
import { useDraft } from "../../editor/useDraft";
import { useLater } from "../../editor/useLater";
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

/** One sheet of a lab: written with remarks, mends and completion; saved into the lab's text. */
export function SheetView() {
  const { slug = "", side = "answer", device = "" } = useParams();
  const [stage] = useStage();
  const lab = useLab(slug, stage);
  if (lab.data === undefined) return <Waiting error={lab.error} />;
  if (!lab.data.devices.some((d) => d.device === device) || !(side in SIDES))
    return <Waiting error={new Error("There is no such sheet in this lab.")} />;
  return (
    <Loaded
      key={`${slug} ${lab.data.stage} ${side} ${device}`}
      lab={lab.data}
      side={side as Side}
      device={device}
    />
  );
}

function Loaded({ lab, side, device }: { lab: Schemas["LabView"]; side: Side; device: string }) {
  const navigate = useNavigate();
  const save = useSaveSheet(lab.slug);
  const editor = useRef<EditorHandle>(null);
  const own = lab.devices.find((d) => d.device === device);
  const { stage } = lab;
  const stageTitle = lab.stages.find((one) => one.id === stage)?.title;
  const what = `${lab.slug} ${stage} ${side} ${device}`;
  const saved = own?.[side] ?? "";
  const { base, setBase, text, setText, changed } = useDraft(what, saved, lab.version);
  const [check, setCheck] = useState<Schemas["SheetCheck"] | null>(null);
  useLater(text, (typed) => checkSheet(lab.slug, { side, device, stage, text: typed, base }), setCheck);

  const submit = useCallback(() => {
    save.mutate(
      { side, device, stage, text, base },
      {
        onSuccess: ({ version }) => {
          setBase(version);
          setText(text === "" || text.endsWith("\n") ? text : `${text}\n`);
          dropDraft(what);
        },
      },
    );
  }, [save, side, device, stage, text, base, setBase, setText, what]);

  const remarks = check?.diagnostics.map(ofDiagnostic) ?? [];
  const errors = remarks.filter((r) => r.severity === "error");
  const failing = check?.pings.filter((p) => p.as_expected === false) ?? [];
  const keys = useEditorKeys(submit, () => void navigate(atStage(`/labs/${lab.slug}`, stage)));
  return (
    <View
      lab={lab}
      title={`${device}: ${errors.length === 0 ? SIDES[side] : `${inWords(errors.length)} to mend`}`}
      about={stageTitle === undefined ? ABOUT[side] : `${stageTitle}: ${inSentence(ABOUT[side])}`}
      aside={changed ? "changed, kept in this browser" : `saved in version ${lab.version}`}
      keys={keys}
      typed
      side={
        <>
          <section>
            <h2>{remarks.length === 0 ? "Nothing to say of it" : said(remarks.length, errors.length)}</h2>
            <Remarks
              remarks={remarks}
              onGoTo={(line) => editor.current?.goTo(line)}
              onMend={(remark) => editor.current?.mend(remark)}
            />
            {check !== null && check.more > 0 && <p className="soft">And {check.more} more.</p>}
            <Saving
              version={lab.version}
              base={base}
              changed={changed}
              pending={save.isPending}
              error={save.error}
              saved={save.data?.version}
              onSave={submit}
              onRebase={() => setBase(lab.version)}
              onBack={() => {
                setText(saved);
                setBase(lab.version);
                editor.current?.replace(saved);
              }}
            />
          </section>
          {check !== null && check.pings.length > 0 && (
            <section>
              <h2>
                {failing.length === 0
                  ? `All ${count(check.pings.length, "ping")} hold`
                  : `${failing.length} of ${count(check.pings.length, "ping")} do not hold`}
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
          <p className="soft">
            This sheet stands in <Link to={`/labs/${lab.slug}/text`}>the lab&apos;s text</Link>; saving
            changes nothing else there.
          </p>
        </>
      }
    >
      <Editor
        ref={editor}
        language="sheet"
        label={`The sheet of ${device}`}
        initial={text}
        remarks={remarks}
        onAsk={(typed, line, column) =>
          completeSheet(lab.slug, { side, device, stage, text: typed, base, line, column })
        }
        onChange={setText}
      />
    </View>
  );
}

const said = (all: number, errors: number) =>
  errors === 0 ? `${count(all, "remark")}, none of them an error` : `${inWords(errors, true)} to mend`;
