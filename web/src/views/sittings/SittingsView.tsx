import { useState, type SyntheticEvent } from "react";
import { Button, Form } from "react-bootstrap";
import { Link, useNavigate, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { atOccasion } from "../../api/occasion";
import { useLab, useLabs } from "../../api/queries";
import { useAddSitting, useGroups, useRestore, useSittings } from "../../api/sittings";
import { DropFiles } from "../../design/DropFiles";
import { View, Waiting } from "../../design/View";
import { count, inWords, moment } from "../../design/words";
import "./sittings.css";
import { Labelled } from "../../design/Labelled";
import { upDown } from "../../design/keys";

type Card = Schemas["SittingCard"];

/** All sittings, how far each is, and a new one. */
export function SittingsView() {
  const found = useSittings();
  const navigate = useNavigate();
  const [at, setAt] = useState(0);
  if (found.data === undefined) return <Waiting error={found.error} />;
  const { sittings } = found.data;
  const chosen = sittings[Math.min(at, sittings.length - 1)];
  const go = (path: (own: Card) => string) => () => chosen && void navigate(path(chosen));
  return (
    <View
      title={
        sittings.length === 0
          ? "No sittings yet"
          : `${inWords(sittings.length, true)} ${sittings.length === 1 ? "sitting" : "sittings"}`
      }
      about="A sitting gives a lab to groups of learners, under rules of its own. A lab can be marked without one, too."
      keys={[
        ...upDown("sittings", (step) => setAt(Math.max(0, Math.min(sittings.length - 1, at + step)))),
        { key: "Enter", does: "its class", run: go((own) => page(own, "class")) },
        { key: "p", does: "its papers", run: go((own) => page(own, "papers")) },
        { key: "r", does: "its rules", run: go((own) => `/sittings/${own.number}`) },
        { key: "n", does: "new sitting", run: () => document.getElementById("sitting-title")?.focus() },
      ]}
      side={
        <>
          <NewSitting />
          <Restore />
        </>
      }
    >
      {sittings.length > 0 && (
        <table className="table rows">
          <thead>
            <tr>
              <th scope="col">Sitting</th>
              <th scope="col">Lab</th>
              <th scope="col">Closes</th>
              <th scope="col" className="number">
                Handed in
              </th>
              <th scope="col">How far</th>
            </tr>
          </thead>
          <tbody>
            {sittings.map((own, n) => (
              <tr key={own.number} aria-current={own === chosen} onMouseEnter={() => setAt(n)}>
                <td>
                  <Link to={page(own, "class")}>{own.title}</Link>
                </td>
                <td className="soft">
                  {own.lab}
                  {own.stage !== "" && `, ${own.stage}`}
                </td>
                <td className="soft once">{own.closes === null ? "" : moment(own.closes)}</td>
                <td className="number once">
                  {own.progress.handed_in} of {own.progress.learners}
                </td>
                <td>{howFar(own)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </View>
  );
}

const page = (own: Card, name: string) =>
  atOccasion(`/labs/${own.slug}/${name}`, { stage: "", sitting: own.number });

/** What there is still to be done, in a few words. */
export function howFar({ progress, released }: Pick<Card, "progress" | "released">): string {
  const { learners, handed_in, marked, doubtful, late } = progress;
  if (handed_in === 0) return "nothing handed in";
  return [
    marked < handed_in ? `${marked} marked` : "all marked",
    handed_in < learners && `${learners - handed_in} awaited`,
    late > 0 && `${late} late`,
    doubtful > 0 && `${doubtful} to be looked at`,
    released === null ? "held" : "released",
  ]
    .filter((part) => typeof part === "string")
    .join(", ");
}

/** Puts a sitting back that was kept as one file. */
function Restore() {
  const restore = useRestore();
  const navigate = useNavigate();
  return (
    <section>
      <h2>From a file</h2>
      <DropFiles
        id="sitting-file"
        label="Choose the file of a sitting"
        accept=".zip"
        onFiles={([file]) =>
          file && restore.mutate(file, { onSuccess: (made) => void navigate(`/sittings/${made.number}`) })
        }
      >
        Drop a sitting here that was kept as one file, on this or another machine.
      </DropFiles>
      <div role="status">
        {restore.isPending && <p className="soft">Reading …</p>}
        {restore.error && <p className="pencil">{restore.error.message}</p>}
      </div>
    </section>
  );
}

/** A new sitting: of a lab and stage, for groups. */
function NewSitting() {
  const [search] = useSearchParams();
  const labs = useLabs({ find: "", topic: "", level: "", removed: false, start: 0 });
  const groups = useGroups();
  const add = useAddSitting();
  const navigate = useNavigate();
  const [title, setTitle] = useState("");
  const [slug, setSlug] = useState(search.get("lab") ?? "");
  const [stage, setStage] = useState("");
  const [chosen, setChosen] = useState<number[]>([]);
  const first = labs.data?.labs[0]?.slug ?? "";
  const own = slug === "" ? first : slug;
  const stages = useLab(own).data?.stages ?? [];
  const send = (event: SyntheticEvent) => {
    event.preventDefault();
    const rules: Schemas["SittingRules"] = {
      opens: null,
      closes: null,
      late: "marked",
      percent: 10,
      most_percent: 100,
      counts: "last",
      attempts: 0,
    };
    add.mutate(
      { title, slug: own, stage: stage || (stages.at(-1)?.id ?? ""), groups: chosen, blind: false, rules },
      { onSuccess: (made) => void navigate(`/sittings/${made.number}`) },
    );
  };
  return (
    <section>
      <h2>New sitting</h2>
      <Form onSubmit={send}>
        <Labelled id="sitting-title" label="Title">
          <Form.Control
            required
            maxLength={120}
            placeholder="Tuesday, week 3"
            value={title}
            onChange={(event) => setTitle(event.target.value)}
          />
        </Labelled>
        <Labelled id="sitting-lab" label="Lab" className="mt-2">
          <Form.Select
            value={own}
            onChange={(event) => {
              setSlug(event.target.value);
              setStage("");
            }}
          >
            {(labs.data?.labs ?? []).map((lab) => (
              <option key={lab.slug} value={lab.slug}>
                {lab.card?.title ?? lab.slug}
              </option>
            ))}
          </Form.Select>
        </Labelled>
        {stages.length > 1 && (
          <>
            <Labelled id="sitting-stage" label="Stage" className="mt-2">
              <Form.Select
                value={stage || stages.at(-1)?.id}
                onChange={(event) => setStage(event.target.value)}
              >
                {stages.map((one) => (
                  <option key={one.id} value={one.id}>
                    {one.title}
                  </option>
                ))}
              </Form.Select>
            </Labelled>
          </>
        )}
        <fieldset className="mt-2">
          <legend className="form-label">Groups</legend>
          {(groups.data?.groups ?? []).map((group) => (
            <Form.Check
              key={group.number}
              id={`group-${group.number}`}
              label={`${group.title}, ${count(group.learners, "learner")}`}
              checked={chosen.includes(group.number)}
              onChange={() =>
                setChosen(
                  chosen.includes(group.number)
                    ? chosen.filter((n) => n !== group.number)
                    : [...chosen, group.number],
                )
              }
            />
          ))}
          {groups.data?.groups.length === 0 && (
            <p className="soft">
              There is no <Link to="/groups/new">group</Link> yet. Without one, the names in an archive are
              the learners.
            </p>
          )}
        </fieldset>
        <Button type="submit" variant="primary" className="mt-3" disabled={add.isPending || own === ""}>
          Make the sitting
        </Button>
        {add.error && <p className="pencil mt-2">{add.error.message}</p>}
      </Form>
    </section>
  );
}
