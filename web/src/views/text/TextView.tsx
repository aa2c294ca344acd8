import { useCallback, useEffect, useRef, useState } from "react";
import { Button } from "react-bootstrap";
import { useNavigate, useParams } from "react-router";
import { Refused, type Schemas } from "../../api/client";
import { checkText, useLab, useSaveLab } from "../../api/queries";
import { View, Waiting } from "../../design/View";
import { inWords } from "../../design/words";
import { dropDraft, keepDraft, readDraft } from "./drafts";
import { Editor, type EditorHandle } from "./Editor";

type Place = Schemas["ErrorPlace"];

/** The lab's text: errors at their line while typing, kept as typed, saved as a new version. */
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
  const [draft] = useState(() => readDraft(lab.slug));
  const [base, setBase] = useState(draft?.base ?? lab.version);
  const [text, setText] = useState(draft?.text ?? lab.text);
  const [places, setPlaces] = useState<Place[]>([]);
  const changed = text !== lab.text;

  useEffect(() => {
    if (changed) keepDraft(lab.slug, { base, text });
    else dropDraft(lab.slug);
  }, [lab.slug, base, text, changed]);

  useEffect(() => {
    let stale = false;
    const timer = window.setTimeout(() => {
      checkText(text).then(
        ({ errors }) => !stale && setPlaces(errors),
        () => undefined, // the next change asks again, and saving tells what is wrong
      );
    }, 250);
    return () => {
      stale = true;
      window.clearTimeout(timer);
    };
  }, [text]);

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
          setPlaces(error.places);
          editor.current?.goTo(error.places[0]?.line ?? 1);
        },
      },
    );
  }, [save, text, base, lab.slug]);

  const conflict = save.error instanceof Refused && save.error.status === 409;
  const older = lab.version !== base;
  return (
    <View
      lab={lab}
      title={places.length === 0 ? "The lab's text" : `The lab's text: ${inWords(places.length)} to mend`}
      about="Everything about the lab stands here: devices, links, networks, what is given, the model answer, pings, scheme."
      aside={changed ? "changed, kept in this browser" : `saved as version ${lab.version}`}
      keys={[
        { key: "Ctrl+S", on: ["Ctrl+s"], does: "save as a new version", run: submit },
        {
          key: "Ctrl+B",
          on: ["Ctrl+b"],
          does: "see the weave",
          run: () => void navigate(`/labs/${lab.slug}`),
        },
        { key: "Esc Tab", on: [], does: "leave the text" },
      ]}
      side={
        <>
          <section>
            <h2>{places.length === 0 ? "It can be read" : `${inWords(places.length, true)} to mend`}</h2>
            {places.map((place, n) => (
              <div className="entry" key={n}>
                <p>
                  <button type="button" className="place" onClick={() => editor.current?.goTo(place.line)}>
                    line {place.line}
                    {place.place !== "" && `, ${place.place}`}
                  </button>
                </p>
                <p>{place.message}</p>
              </div>
            ))}
            {places.length === 0 && (
              <p className="soft mt-2">
                {changed
                  ? "Saving keeps the version before; the papers are marked again with the new one."
                  : "Change what you like: nothing is lost, every saved version stays."}
              </p>
            )}
            <div className="d-flex gap-2 mt-3">
              <Button variant="primary" disabled={!changed || save.isPending} onClick={submit}>
                Save as version {lab.version + 1}
              </Button>
              {changed && (
                <Button
                  onClick={() => {
                    setText(lab.text);
                    setBase(lab.version);
                    editor.current?.replace(lab.text);
                  }}
                >
                  Back to version {lab.version}
                </Button>
              )}
            </div>
          </section>
          <div role="status">
            {save.error && <p className="said mt-3">{save.error.message}</p>}
            {(conflict || older) && changed && (
              <p className="soft">
                Yours begins with version {base}, the newest is {lab.version}.{" "}
                <button type="button" className="place" onClick={() => setBase(lab.version)}>
                  Put mine on top of it
                </button>
              </p>
            )}
            {save.isSuccess && !changed && <p className="mt-3">Saved as version {save.data.version}.</p>}
          </div>
        </>
      }
    >
      <Editor ref={editor} initial={text} places={places} onChange={setText} onSave={submit} />
    </View>
  );
}
