import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Refused, type Schemas } from "../../api/client";
import type { Occasion } from "../../api/occasion";
import { useUpload, type HandIn } from "../../api/queries";
import { DropFiles } from "../../design/DropFiles";
import { count } from "../../design/words";
import { Replacing } from "./Replacing";
import { WhosePapers } from "./WhosePapers";

const ARCHIVE = /\.(zip|tar|tgz|tar\.gz)$/i;

/** Whether a file tells whose it holds: an archive, or what lies in a folder. */
const ofSeveral = (file: File) => ARCHIVE.test(file.name) || file.name.includes("/");

/** Takes a class as an archive or folder, or the sheets of one learner, by choosing or dropping files. */
export function Upload({ slug, occasion }: { slug: string; occasion: Occasion }) {
  const upload = useUpload(slug);
  const [files, setFiles] = useState<File[]>([]);
  const [learner, setLearner] = useState("");
  const sheets = files.filter((file) => !ofSeveral(file));
  const ready = files.length > 0 && (sheets.length === 0 || learner.trim() !== "");
  const asked = askedIn(upload.error);
  const flat = asked?.flat ?? undefined;
  const send = (chosen: File[], more: Partial<HandIn>) =>
    upload.mutate(
      {
        files: chosen,
        learner: learner.trim(),
        occasion,
        pattern: "",
        shown: true,
        seen: "",
        decided: {},
        matched: {},
        newcomers: [],
        ...more,
      },
      { onSuccess: () => setFiles([]) },
    );
  const leave = () => {
    setFiles([]);
    upload.reset();
  };
  const take = (chosen: File[]) => {
    setFiles(chosen);
    upload.reset();
    if (chosen.length > 0 && chosen.every(ofSeveral)) send(chosen, { learner: "" });
  };
  return (
    <section>
      <h2>Hand in papers</h2>
      <DropFiles id="choose-files" label="Choose files" multiple folder="Or choose a folder" onFiles={take}>
        Drop an archive (zip, tar) or folder here: one folder per learner, in it one file per device, such as{" "}
        <code>weir.sheet</code>. Or the sheets of one learner.
      </DropFiles>
      {flat && (
        <Proposal
          key={flat.pattern}
          flat={flat}
          onTake={(pattern, shown) => send(files, { learner: "", pattern, shown })}
        />
      )}
      {asked && asked.whose.length > 0 && (
        <WhosePapers
          key={asked.message}
          asked={asked}
          busy={upload.isPending}
          onTake={(matched, newcomers) => send(files, { ...upload.variables, matched, newcomers })}
          onLeave={leave}
        />
      )}
      {asked && asked.papers.length > 0 && (
        <Replacing
          key={asked.seen}
          asked={asked}
          busy={upload.isPending}
          onTake={(decided) => send(files, { ...upload.variables, seen: asked.seen, decided })}
          onLeave={leave}
        />
      )}
      {sheets.length > 0 && !asked && (
        <Form
          className="mt-3"
          onSubmit={(event) => {
            event.preventDefault();
            if (ready) send(files, {});
          }}
        >
          <Form.Label htmlFor="learner">
            {sheets.length === 1 ? "Whose sheet is this?" : "Whose sheets are these?"}
          </Form.Label>
          <Form.Control
            id="learner"
            value={learner}
            autoFocus
            maxLength={120}
            placeholder="the learner's name"
            onChange={(event) => setLearner(event.target.value)}
          />
          <Button type="submit" variant="primary" className="mt-3" disabled={!ready || upload.isPending}>
            Hand in
          </Button>
        </Form>
      )}
      <div role="status" className="mt-3">
        {upload.isPending && <p className="soft">Reading …</p>}
        {upload.data && (
          <p>
            {count(upload.data.papers.length, "paper")} taken.
            {upload.data.remarks.map((remark) => (
              <span className="soft d-block" key={remark}>
                {remark}
              </span>
            ))}
          </p>
        )}
        {upload.error && !asked && (
          <div className="said">
            <p>{upload.error.message}</p>
            <p className="soft">Nothing was stored.</p>
          </div>
        )}
      </div>
    </section>
  );
}

type Flat = Schemas["FlatUpload"];

/** What has to be answered before anything is stored, where that was the answer. */
const askedIn = (error: unknown): Schemas["UploadAsked"] | undefined =>
  error instanceof Refused && error.status === 409 ? (error.told as Schemas["UploadAsked"]) : undefined;

interface ProposalProps {
  flat: Flat;
  onTake: (pattern: string, shown: boolean) => void;
}

/** How the names of files that lie side by side seem to be made up, to be taken, or changed and looked at again. */
function Proposal({ flat, onTake }: ProposalProps) {
  const [pattern, setPattern] = useState(flat.pattern);
  const shown = pattern === flat.pattern;
  return (
    <Form
      className="proposal mt-4"
      onSubmit={(event) => {
        event.preventDefault();
        onTake(pattern, shown);
      }}
    >
      <h2>Whose is which file?</h2>
      <p>The files bear learner and device in their names.</p>
      <Form.Label htmlFor="pattern">How the names are made up</Form.Label>
      <Form.Control
        id="pattern"
        className="mono"
        value={pattern}
        autoFocus
        maxLength={120}
        onChange={(event) => setPattern(event.target.value)}
      />
      {shown && (
        <>
          <p className="mt-3 mb-0">Read so, these are {count(flat.learners.length, "paper")}:</p>
          <ul className="soft">
            {flat.learners.slice(0, 8).map((learner) => (
              <li key={learner}>{learner}</li>
            ))}
            {flat.learners.length > 8 && <li>{flat.learners.length - 8} more</li>}
          </ul>
        </>
      )}
      <Button type="submit" variant="primary" className="mt-3">
        {shown ? `Take ${count(flat.learners.length, "paper")}` : "Show what comes of it"}
      </Button>
    </Form>
  );
}
