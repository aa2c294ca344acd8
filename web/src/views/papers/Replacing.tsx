import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import type { Schemas } from "../../api/client";
import type { Decision } from "../../api/queries";
import { marks, moment } from "../../design/words";

type Asked = Schemas["PaperAsked"];

interface Props {
  asked: Schemas["UploadAsked"];
  busy: boolean;
  onTake: (decided: Record<string, Decision>) => void;
  onLeave: () => void;
}

/** What becomes of papers whose learners have one already: decided for each, before anything is stored. */
export function Replacing({ asked, busy, onTake, onLeave }: Props) {
  const [decided, setDecided] = useState(() =>
    Object.fromEntries(asked.papers.map((paper) => [paper.name, usual(paper)])),
  );
  return (
    <Form
      className="replacing mt-4"
      onSubmit={(event) => {
        event.preventDefault();
        onTake(decided);
      }}
    >
      <h2>There is a paper already</h2>
      <p className="soft">
        {asked.message} Nothing is stored yet, and no earlier paper is lost, whatever you choose.
      </p>
      {asked.papers.map((paper, n) => (
        <div key={`${paper.name} ${n}`} className="question">
          <Form.Label htmlFor={`decide-${n}`}>{paper.name}</Form.Label>
          <p className="soft">{told(paper)}</p>
          <Form.Select
            id={`decide-${n}`}
            autoFocus={n === 0}
            value={decided[paper.name]}
            onChange={(event) => setDecided({ ...decided, [paper.name]: event.target.value as Decision })}
          >
            {choices(paper).map(([decision, words]) => (
              <option key={decision} value={decision}>
                {words}
              </option>
            ))}
          </Form.Select>
        </div>
      ))}
      <div className="ending">
        <Button type="submit" variant="primary" disabled={busy}>
          Hand in
        </Button>
        <button type="button" className="as-link" onClick={onLeave}>
          hand in nothing
        </button>
      </div>
    </Form>
  );
}

/** What is chosen before anybody chooses: what loses nothing. */
const usual = (paper: Asked): Decision =>
  paper.apart ? "apart" : paper.missing.length > 0 ? "add" : "replace";

function choices(paper: Asked): [Decision, string][] {
  const is = paper.apart ? `${paper.learner}: ` : "";
  const all: [Decision, string][] = [
    ["apart", `somebody other than ${paper.learner}`],
    ["replace", `${is}use it in place of the earlier paper`],
    ["add", `${is}add it to the earlier paper`],
    ["leave", "leave it out; the earlier paper counts"],
  ];
  return all.filter(
    ([decision]) => (decision !== "apart" || paper.apart) && (decision !== "add" || paper.missing.length > 0),
  );
}

const inWords = (criterion: string) => (criterion === "" ? "the total" : criterion.replaceAll(":", " "));

function told(paper: Asked): string {
  const there =
    paper.received_at === null
      ? "Another paper in this upload"
      : `The paper of ${moment(paper.received_at)}${paper.carried === null ? "" : `, ${marks(paper.carried)} marks`}`;
  const whose = paper.apart ? `${there} is ${paper.learner}’s.` : `${there}.`;
  const missing = paper.missing.length > 0 ? ` Only that one has ${paper.missing.join(", ")}.` : "";
  const overruled =
    paper.overruled.length > 0
      ? ` What you decided about ${paper.overruled.map(inWords).join(", ")} stays, to be looked at again.`
      : "";
  return `New: ${paper.devices.join(", ")}. ${whose}${missing}${overruled}`;
}
