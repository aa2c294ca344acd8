import { useRef, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useCopyLab, useLabs, useMakeLab, useRemoveLab, type AskedLabs } from "../../api/queries";
import { View, Waiting } from "../../design/View";
import { count, inWords, marks } from "../../design/words";
import { Find } from "./Find";
import { ImportLab } from "./ImportLab";
import { SmallWeave } from "./SmallWeave";
import "./labs.css";
import { Labelled } from "../../design/Labelled";
import { upDown } from "../../design/keys";

const ALL: AskedLabs = { find: "", topic: "", level: "", removed: false, start: 0 };

/** The shelf: every lab with its weave, marks, check result and papers. */
export function LabsView() {
  const [asked, setAsked] = useState(ALL);
  const labs = useLabs(asked);
  const remove = useRemoveLab();
  const copy = useCopyLab();
  const navigate = useNavigate();
  const [at, setAt] = useState(0);
  const title = useRef<HTMLInputElement>(null);
  const search = useRef<HTMLInputElement>(null);
  if (labs.data === undefined) return <Waiting error={labs.error} />;
  const { labs: all, of, most, topics, levels } = labs.data;
  const chosen = all[Math.min(at, all.length - 1)];
  const ask = (more: Partial<AskedLabs>) => {
    setAsked({ ...asked, start: 0, ...more });
    setAt(0);
  };
  const copied = (slug: string) =>
    copy.mutate(slug, { onSuccess: (made) => void navigate(`/labs/${made.slug}/text`) });
  const moved = (slug: string) => remove.mutate({ slug, removed: !asked.removed });
  return (
    <View
      title={heading(of, asked)}
      about={about(of, asked)}
      side={
        <>
          <Find input={search} asked={asked} topics={topics} levels={levels} onAsk={ask} />
          <NewLab input={title} />
          <ImportLab />
        </>
      }
      keys={[
        ...upDown("labs", (step) => setAt(Math.max(0, Math.min(all.length - 1, at + step)))),
        ...(chosen
          ? [
              { key: "Enter", does: "open it", run: () => void navigate(`/labs/${chosen.slug}`) },
              { key: "p", does: "its papers", run: () => void navigate(`/labs/${chosen.slug}/papers`) },
              { key: "c", does: "copy it", run: () => copied(chosen.slug) },
              { key: "x", does: asked.removed ? "put it back" : "remove it", run: () => moved(chosen.slug) },
            ]
          : []),
        { key: "/", does: "find", run: () => search.current?.focus() },
        { key: "n", does: "new lab", run: () => title.current?.focus() },
        { key: "o", does: "from a file", run: () => document.getElementById("lab-file")?.click() },
      ]}
    >
      {remove.data !== undefined && (
        <p role="status" className="noted">
          {remove.data.slug} is {remove.variables.removed ? "off the shelf" : "back on the shelf"}.{" "}
          <button
            type="button"
            className="as-link"
            onClick={() => remove.mutate({ ...remove.variables, removed: !remove.variables.removed })}
          >
            Undo
          </button>
        </p>
      )}
      <div className="shelf">
        {all.map((lab, n) => (
          <Card
            key={lab.slug}
            lab={lab}
            current={lab === chosen}
            removed={asked.removed}
            onPoint={() => setAt(n)}
            onCopy={() => copied(lab.slug)}
            onMove={() => moved(lab.slug)}
          />
        ))}
      </div>
      {of > most && (
        <nav aria-label="More labs" className="turning">
          <button
            type="button"
            className="as-link"
            disabled={asked.start === 0}
            onClick={() => ask({ start: Math.max(0, asked.start - most) })}
          >
            previous {most}
          </button>
          <span className="soft">
            {asked.start + 1} to {asked.start + all.length} of {of}
          </span>
          <button
            type="button"
            className="as-link"
            disabled={asked.start + most >= of}
            onClick={() => ask({ start: asked.start + most })}
          >
            next {most}
          </button>
        </nav>
      )}
    </View>
  );
}

/** What is asked for, as it stands behind a number of labs. */
function filtered({ find, topic, level, removed }: AskedLabs): string {
  return [
    removed ? "removed" : "",
    level !== "" ? `of the level ${level}` : "",
    topic !== "" ? `on ${topic}` : "",
    find !== "" ? `with “${find}”` : "",
  ]
    .filter((words) => words !== "")
    .join(", ");
}

function heading(of: number, asked: AskedLabs): string {
  const more = filtered(asked);
  if (of === 0) return more === "" ? "No labs yet" : `No lab ${more}`;
  const labs = `${inWords(of, true)} ${of === 1 ? "lab" : "labs"}`;
  return more === "" ? labs : `${labs} ${more}`;
}

function about(of: number, asked: AskedLabs): string {
  if (asked.removed) return "Nothing of a removed lab is lost: its versions and papers come back with it.";
  if (of > 0) return "Each with what its check says, and the papers handed in.";
  return filtered(asked) === ""
    ? "Start one at the right: it begins as a small lab that works, and becomes yours."
    : "Titles, names, topics and levels are searched.";
}

interface CardProps {
  lab: Schemas["ShelfLab"];
  current: boolean;
  removed: boolean;
  onPoint: () => void;
  onCopy: () => void;
  onMove: () => void;
}

function Card({ lab, current, removed, onPoint, onCopy, onMove }: CardProps) {
  const name = lab.card?.title ?? lab.slug;
  return (
    <article className="lab-card" aria-current={current} onPointerEnter={onPoint}>
      <Link to={`/labs/${lab.slug}`} className="picture" tabIndex={-1} aria-hidden="true">
        {lab.card !== null && <SmallWeave weave={lab.card.weave} />}
      </Link>
      <div>
        <h2>
          <Link to={`/labs/${lab.slug}`}>{name}</Link>
        </h2>
        {lab.card === null ? <p className="soft">Being checked …</p> : <Checked card={lab.card} />}
        <p>
          <Link to={`/labs/${lab.slug}/papers`}>
            {lab.papers === 0 ? "no papers yet" : count(lab.papers, "paper")}
          </Link>
          <span className="soft">, version {lab.version}</span>
          <span className="card-actions">
            <button type="button" className="as-link" aria-label={`Copy ${name}`} onClick={onCopy}>
              copy
            </button>
            <button
              type="button"
              className="as-link"
              aria-label={`${removed ? "Put back" : "Remove"} ${name}`}
              onClick={onMove}
            >
              {removed ? "put back" : "remove"}
            </button>
          </span>
        </p>
      </div>
    </article>
  );
}

function Checked({ card }: { card: Schemas["LabCard"] }) {
  if (card.failure !== null) return <p className="pencil">It could not be checked. {card.failure}</p>;
  return (
    <>
      <p className="soft">
        {[card.level, ...card.topics].filter(Boolean).join(", ")}
        {card.minutes !== null && `, ${card.minutes} minutes`}
      </p>
      <p>
        {count(card.devices, "device")}, {count(card.networks, "network")}, {marks(card.out_of)} marks.{" "}
        {card.errors === 0 ? (
          "The check finds nothing wrong."
        ) : (
          <b>
            {inWords(card.errors, true)} {card.errors === 1 ? "finding" : "findings"} to mend.
          </b>
        )}
      </p>
    </>
  );
}

function NewLab({ input }: { input: React.RefObject<HTMLInputElement | null> }) {
  const make = useMakeLab();
  const navigate = useNavigate();
  const [title, setTitle] = useState("");
  const start = (starter: boolean) => {
    if (title.trim() !== "")
      make.mutate(
        { title: title.trim(), starter },
        { onSuccess: ({ slug }) => void navigate(`/labs/${slug}`) },
      );
  };
  return (
    <section>
      <h2>A new lab</h2>
      <Form
        className="mt-3"
        onSubmit={(event) => {
          event.preventDefault();
          start(false);
        }}
      >
        <Labelled id="new-title" label="Its title">
          <Form.Control
            ref={input}
            value={title}
            maxLength={120}
            placeholder="Two banks of the canal"
            onChange={(event) => setTitle(event.target.value)}
            onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
          />
        </Labelled>
        <div className="d-flex gap-2 mt-3">
          <Button type="submit" variant="primary" disabled={title.trim() === "" || make.isPending}>
            Start it empty
          </Button>
          <Button
            variant="light"
            disabled={title.trim() === "" || make.isPending}
            onClick={() => start(true)}
          >
            Start from an example
          </Button>
        </div>
      </Form>
      {make.error && <p className="said mt-3">{make.error.message}</p>}
      <p className="soft mt-3">
        The example has two routers, two hosts and three pings that work, to change into your own.
      </p>
    </section>
  );
}
