import { useCallback, useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { Refused, type Schemas } from "../../api/client";
import { checkText, completeText, useLab, useSaveLab } from "../../api/queries";
import { View, Waiting } from "../../design/View";
import { count, inWords, notesInWords } from "../../design/words";
import { dropDraft } from "../../editor/drafts";
import { Editor, type EditorHandle } from "../../editor/Editor";
import { useEditorKeys } from "../../editor/keys";
import { ofErrorPlace, ofFinding, type Remark } from "../../editor/remarks";
import { Remarks } from "../../editor/Remarks";
import { Saving } from "../../editor/Saving";
import { useDraft } from "../../editor/useDraft";
import { useLater } from "../../editor/useLater";

/** The lab's text: the whole lab check while typing, kept as typed, saved as a new version. */
export function TextView() {
  const { slug = "" } = useParams();
  const lab = useLab(slug);
  if (lab.data === undefined) return <Waiting error={lab.error} />;
  return <Loaded key={slug} lab={lab.data} />;
}

function Loaded({ lab }: { lab: Schemas["LabView"] }) {
  const navigate = useNavigate();
  const save = useSaveLab(lab.slug);
  const editor = useRef<EditorHandle>(null);
  const { base, setBase, text, setText, changed } = useDraft(lab.slug, lab.text, lab.version);
  const [remarks, setRemarks] = useState<Remark[]>([]);
  const [check, setCheck] = useState<Schemas["CheckShape"] | null>(null);
  useLater(text, checkText, (found) => {
    setCheck(found.readable ? found.check : null);
    setRemarks(found.check.findings.map(ofFinding));
  });

  const submit = useCallback(() => {
    save.mutate(
      { text, base },
      {
        onSuccess: ({ version }) => {
          setBase(version);
          dropDraft(lab.slug);
        },
        onError: (error) => {
          if (!(error instanceof Refused) || error.places.length === 0) return;
          setRemarks(error.places.map(ofErrorPlace));
          editor.current?.goTo(error.places[0]?.line ?? 1);
        },
      },
    );
  }, [save, text, base, setBase, lab.slug]);

  const errors = remarks.filter((r) => r.severity === "error");
  const notes = remarks.filter((r) => r.severity !== "error");
  const list = (some: Remark[]) => (
    <Remarks
      remarks={some}
      onGoTo={(line) => editor.current?.goTo(line)}
      onMend={(remark) => editor.current?.mend(remark)}
    />
  );
  const keys = useEditorKeys(submit, () => void navigate(`/labs/${lab.slug}`));
  return (
    <View
      lab={lab}
      title={errors.length === 0 ? "The lab's text" : `The lab's text: ${inWords(errors.length)} to mend`}
      about="Everything about the lab stands here: devices, links, networks, what is given, the model answer, pings, scheme."
      aside={changed ? "changed, kept in this browser" : `saved as version ${lab.version}`}
      keys={keys}
      typed
      side={
        <>
          <section>
            <h2>{errors.length === 0 ? checked(check) : `${inWords(errors.length, true)} to mend`}</h2>
            {list(errors)}
            {errors.length === 0 && (
              <p className="soft mt-2">
                {changed
                  ? "Saving keeps the version before; the papers are marked again with the new one."
                  : "Change what you like: nothing is lost, every saved version stays."}
              </p>
            )}
            <p className="soft mt-2">
              <Link to={`/labs/${lab.slug}/versions`}>All versions</Link>,{" "}
              <a href={`/lab-files/${lab.slug}.lab.yaml`}>save as a file</a>
            </p>
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
                setText(lab.text);
                setBase(lab.version);
                editor.current?.replace(lab.text);
              }}
            />
          </section>
          {notes.length > 0 && (
            <section>
              <h2>{notesInWords(notes.length)}</h2>
              {list(notes)}
            </section>
          )}
        </>
      }
    >
      <Editor
        ref={editor}
        language="lab"
        label="The lab's text"
        initial={text}
        remarks={remarks}
        onAsk={completeText}
        onChange={setText}
      />
    </View>
  );
}

function checked(check: Schemas["CheckShape"] | null): string {
  if (check === null) return "It can be read";
  const all = check.pings + check.services;
  if (all === 0) return "It can be read; it has no pings yet";
  return `It can be read, and all ${count(all, check.services > 0 ? "expectation" : "ping")} hold`;
}
