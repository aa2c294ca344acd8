import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { useNavigate, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { readRoster, useGroup, useGroups, useRemoveGroup, useSaveGroup } from "../../api/sittings";
import { DropFiles } from "../../design/DropFiles";
import { View, Waiting } from "../../design/View";
import { count, inWords } from "../../design/words";
import "./groups.css";
import { Labelled } from "../../design/Labelled";
import { upDown } from "../../design/keys";

const EXAMPLE = "id, name, mail, team\n4711, Ana Weir, ana@lock.example, \n4712, Ben Lock, , ";

/** Groups of learners: the list, and one of them with its roster, as a table and to be typed. */
export function GroupsView() {
  const { number = "" } = useParams();
  const chosen = Number(number) || 0;
  const groups = useGroups();
  const group = useGroup(chosen);
  if (groups.data === undefined) return <Waiting error={groups.error} />;
  if (chosen > 0 && group.data === undefined) return <Waiting error={group.error} />;
  return (
    <Loaded
      key={chosen}
      groups={groups.data.groups}
      group={chosen > 0 ? (group.data ?? null) : null}
      fresh={number === "new"}
    />
  );
}

interface Props {
  groups: Schemas["GroupRef"][];
  group: Schemas["GroupView"] | null;
  /** Whether a new one is being made. */
  fresh: boolean;
}

function Loaded({ groups, group, fresh }: Props) {
  const navigate = useNavigate();
  const remove = useRemoveGroup();
  const [at, setAt] = useState(0);
  const chosen = groups[Math.min(at, groups.length - 1)];
  const editing = fresh || group !== null;
  return (
    <View
      title={
        group
          ? `${group.title}: ${count(group.learners.length, "learner")}`
          : fresh
            ? "A new group"
            : groups.length === 0
              ? "No groups yet"
              : `${inWords(groups.length, true)} ${groups.length === 1 ? "group" : "groups"}`
      }
      about={
        editing
          ? "One learner on each line: an id as the course system has it, and a name. Columns are found by their heads."
          : "A group is given a lab in a sitting. Sittings keep the learners that they were given."
      }
      keys={
        editing
          ? [{ key: "Esc", on: ["Escape"], does: "all groups", run: () => void navigate("/groups") }]
          : [
              ...upDown("groups", (step) => setAt(Math.max(0, Math.min(groups.length - 1, at + step)))),
              {
                key: "Enter",
                does: "open it",
                run: () => chosen && void navigate(`/groups/${chosen.number}`),
              },
              { key: "n", does: "new group", run: () => void navigate("/groups/new") },
            ]
      }
    >
      {editing ? (
        <Roster group={group} onSaved={(saved) => void navigate(`/groups/${saved}`)} />
      ) : (
        <>
          {groups.length > 0 && (
            <table className="table rows">
              <thead>
                <tr>
                  <th scope="col">Group</th>
                  <th scope="col" className="number">
                    Learners
                  </th>
                  <th scope="col">
                    <span className="visually-hidden">What can be done</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {groups.map((own, n) => (
                  <tr key={own.number} aria-current={own === chosen} onMouseEnter={() => setAt(n)}>
                    <td>
                      <button
                        type="button"
                        className="as-link"
                        onClick={() => void navigate(`/groups/${own.number}`)}
                      >
                        {own.title}
                      </button>
                    </td>
                    <td className="number">{own.learners}</td>
                    <td>
                      <button
                        type="button"
                        className="as-link"
                        aria-label={`Remove ${own.title}`}
                        onClick={() => remove.mutate(own.number)}
                      >
                        remove
                      </button>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          <p className="mt-3">
            <Button variant="primary" onClick={() => void navigate("/groups/new")}>
              New group
            </Button>
          </p>
        </>
      )}
    </View>
  );
}

interface RosterProps {
  group: Schemas["GroupView"] | null;
  onSaved: (number: number) => void;
}

/** A roster to be typed, pasted or dropped, beside what is read of it. */
function Roster({ group, onSaved }: RosterProps) {
  const save = useSaveGroup(group?.number ?? 0);
  const [title, setTitle] = useState(group?.title ?? "");
  const [text, setText] = useState(group?.text ?? "");
  const [read, setRead] = useState<Schemas["RosterRead"]>({
    learners: group?.learners ?? [],
    remarks: group?.remarks ?? [],
  });
  const type = (typed: string) => {
    setText(typed);
    void readRoster(typed).then(setRead);
  };
  return (
    <Form
      className="roster"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate({ title, text }, { onSuccess: (saved) => onSaved(saved.number) });
      }}
    >
      <div>
        <Labelled id="group-title" label="Title">
          <Form.Control
            required
            autoFocus={group === null}
            maxLength={120}
            placeholder="Tuesday, autumn term"
            value={title}
            onChange={(event) => setTitle(event.target.value)}
          />
        </Labelled>
        <Labelled id="group-text" label="Roster" className="mt-3">
          <Form.Control
            as="textarea"
            rows={14}
            className="mono"
            spellCheck={false}
            placeholder={EXAMPLE}
            value={text}
            onChange={(event) => type(event.target.value)}
          />
        </Labelled>
        <div className="mt-3">
          <DropFiles
            id="roster-file"
            label="Choose a roster"
            accept=".csv,.txt,.tsv"
            onFiles={(files) => void files[0]?.text().then(type)}
          >
            Or drop a CSV here, as the course system writes it.
          </DropFiles>
        </div>
        <p className="mt-3">
          <Button type="submit" variant="primary" disabled={save.isPending || title.trim() === ""}>
            {read.learners.length === 0 ? "Save" : `Save ${count(read.learners.length, "learner")}`}
          </Button>
          {save.isSuccess && <span className="soft"> Saved.</span>}
        </p>
        {save.error && <p className="pencil">{save.error.message}</p>}
      </div>
      <div aria-live="polite">
        {read.remarks.length > 0 && text.trim() !== "" && (
          <div className="said">
            {read.remarks.slice(0, 6).map((remark) => (
              <p key={remark} className="mb-1">
                {remark}
              </p>
            ))}
            {read.remarks.length > 6 && <p className="soft">and {read.remarks.length - 6} lines more</p>}
          </div>
        )}
        {read.learners.length > 0 && <Learners learners={read.learners} />}
      </div>
    </Form>
  );
}

/** The learners of a roster, with the columns that anybody has something in. */
function Learners({ learners }: { learners: Schemas["LearnerShape"][] }) {
  const more = (["export_id", "mail", "team"] as const).filter((part) => learners.some((own) => own[part]));
  return (
    <table className="table">
      <thead>
        <tr>
          <th scope="col">Id</th>
          <th scope="col">Name</th>
          {more.map((part) => (
            <th key={part} scope="col">
              {{ export_id: "Export id", mail: "Mail", team: "Team" }[part]}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {learners.slice(0, 200).map((own) => (
          <tr key={own.code}>
            <td className="mono">{own.code}</td>
            <td>{own.name}</td>
            {more.map((part) => (
              <td key={part}>{own[part]}</td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
