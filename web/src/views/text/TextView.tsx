import { useEffect, useRef } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { completeText } from "../../api/queries";
import { useWork } from "../../authoring/Authoring";
import { Aside, Told } from "../../authoring/Told";
import { View } from "../../design/View";
import { count, inWords, notesInWords } from "../../design/words";
import { Editor, type EditorHandle } from "../../editor/Editor";
import { useEditorKeys } from "../../editor/keys";
import { ofErrorPlace, ofFinding, type Remark } from "../../editor/remarks";
import { Remarks } from "../../editor/Remarks";
import { Saving } from "../../editor/Saving";

/** The lab's text: the whole lab check while typing; every other view is a view of this text. */
export function TextView() {
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const { work, state } = useWork();
  const editor = useRef<EditorHandle>(null);
  const { text, check, unread, refusedAt } = state;
  const line = Number(search.get("line") ?? 0);
  useEffect(() => {
    if (line > 0) editor.current?.goTo(line);
  }, [line]);
  useEffect(() => editor.current?.follow(text), [text]);
  const remarks: Remark[] =
    refusedAt.length > 0
      ? refusedAt.map(ofErrorPlace)
      : unread.length > 0 && check === null
        ? unread.map(ofErrorPlace)
        : (check?.findings.map(ofFinding) ?? []);
  const errors = remarks.filter((r) => r.severity === "error");
  const notes = remarks.filter((r) => r.severity !== "error");
  const submit = () =>
    void work.save().then((saved) => {
      const first = work.state.refusedAt[0];
      if (saved === null && first) editor.current?.goTo(first.line);
    });
  const list = (some: Remark[]) => (
    <Remarks
      remarks={some}
      onGoTo={(to) => editor.current?.goTo(to)}
      onMend={(remark) => editor.current?.mend(remark)}
    />
  );
  const keys = useEditorKeys(submit, () => void navigate(`/labs/${work.slug}`));
  return (
    <View
      lab={{ slug: work.slug, title: state.look?.title ?? work.slug }}
      title={errors.length === 0 ? "The lab's text" : `The lab's text: ${inWords(errors.length)} to mend`}
      about="Everything about the lab stands here: devices, links, networks, what is given, the model answer, pings, scheme."
      aside={<Aside plain />}
      keys={keys}
      typed
      side={
        <>
          <Told />
          <section>
            <h2>{errors.length === 0 ? checked(check) : `${inWords(errors.length, true)} to mend`}</h2>
            {list(errors)}
            {errors.length === 0 && (
              <p className="soft mt-2">
                {work.changed
                  ? "Saving keeps the version before; the papers are marked again with the new one."
                  : "Change what you like: nothing is lost, every saved version stays."}
              </p>
            )}
            <p className="soft mt-2">
              <Link to={`/labs/${work.slug}/versions`}>All versions</Link>,{" "}
              <a href={`/lab-files/${work.slug}.lab.yaml`}>save as a file</a>,{" "}
              <a href={`/lab-files/${work.slug}.topology.json`}>its topology (RFC 8345)</a>
            </p>
            <Saving onSave={submit} />
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
        about={check === null ? text : state.checked}
        onAsk={completeText}
        onChange={work.type}
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
