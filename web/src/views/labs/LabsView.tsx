import { useRef, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useLabs, useMakeLab } from "../../api/queries";
import { View, Waiting } from "../../design/View";
import { count, inWords, marks } from "../../design/words";
import { SmallWeave } from "./SmallWeave";
import "./labs.css";

/** The shelf: every lab with its weave, marks, check result and papers. */
export function LabsView() {
  const [find, setFind] = useState("");
  const [start, setStart] = useState(0);
  const labs = useLabs(find, start);
  const navigate = useNavigate();
  const [at, setAt] = useState(0);
  const title = useRef<HTMLInputElement>(null);
  const search = useRef<HTMLInputElement>(null);
  if (labs.data === undefined) return <Waiting error={labs.error} />;
  const { labs: all, of, most } = labs.data;
  const chosen = all[Math.min(at, all.length - 1)];
  const turn = (by: number) => {
    setStart(Math.max(0, start + by));
    setAt(0);
  };
  return (
    <View
      title={heading(of, find)}
      about={about(of, find)}
      side={
        <>
          <Find
            input={search}
            find={find}
            onFind={(text) => {
              setFind(text);
              setStart(0);
              setAt(0);
            }}
          />
          <NewLab input={title} />
        </>
      }
      keys={[
        { key: "↑", on: ["ArrowUp"], does: "previous lab", run: () => setAt(Math.max(0, at - 1)) },
        { key: "↓", on: ["ArrowDown"], does: "next lab", run: () => setAt(Math.min(all.length - 1, at + 1)) },
        ...(chosen
          ? [{ key: "Enter", does: "open it", run: () => void navigate(`/labs/${chosen.slug}`) }]
          : []),
        ...(chosen
          ? [{ key: "p", does: "its papers", run: () => void navigate(`/labs/${chosen.slug}/papers`) }]
          : []),
        { key: "/", does: "find a lab", run: () => search.current?.focus() },
        { key: "n", does: "new lab", run: () => title.current?.focus() },
      ]}
    >
      <div className="shelf">
        {all.map((lab, n) => (
          <Card key={lab.slug} lab={lab} current={lab === chosen} onPoint={() => setAt(n)} />
        ))}
      </div>
      {of > most && (
        <nav aria-label="More labs" className="turning">
          <button type="button" className="as-link" disabled={start === 0} onClick={() => turn(-most)}>
            previous {most}
          </button>
          <span className="soft">
            {start + 1} to {start + all.length} of {of}
          </span>
          <button type="button" className="as-link" disabled={start + most >= of} onClick={() => turn(most)}>
            next {most}
          </button>
        </nav>
      )}
    </View>
  );
}

function heading(of: number, find: string): string {
  if (of === 0) return find === "" ? "No labs yet" : `No lab with “${find}”`;
  const labs = `${inWords(of, true)} ${of === 1 ? "lab" : "labs"}`;
  return find === "" ? labs : `${labs} with “${find}”`;
}

function about(of: number, find: string): string {
  if (of > 0) return "Each with what its check says, and the papers handed in.";
  return find === ""
    ? "Start one at the right: it begins as a small lab that works, and becomes yours."
    : "Titles, names, topics and levels are searched.";
}

interface CardProps {
  lab: Schemas["ShelfLab"];
  current: boolean;
  onPoint: () => void;
}

function Card({ lab, current, onPoint }: CardProps) {
  return (
    <article className="lab-card" aria-current={current} onMouseEnter={onPoint}>
      <Link to={`/labs/${lab.slug}`} className="picture" tabIndex={-1} aria-hidden="true">
        {lab.card !== null && <SmallWeave weave={lab.card.weave} />}
      </Link>
      <div>
        <h2>
          <Link to={`/labs/${lab.slug}`}>{lab.card?.title ?? lab.slug}</Link>
        </h2>
        {lab.card === null ? <p className="soft">Being checked …</p> : <Checked card={lab.card} />}
        <p>
          <Link to={`/labs/${lab.slug}/papers`}>
            {lab.papers === 0 ? "no papers yet" : count(lab.papers, "paper")}
          </Link>
          <span className="soft">, version {lab.version}</span>
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

interface FindProps {
  input: React.RefObject<HTMLInputElement | null>;
  find: string;
  onFind: (text: string) => void;
}

function Find({ input, find, onFind }: FindProps) {
  return (
    <section className="mb-4">
      <Form.Label htmlFor="find-lab">Find a lab</Form.Label>
      <Form.Control
        id="find-lab"
        ref={input}
        type="search"
        value={find}
        maxLength={120}
        placeholder="title, topic or level"
        onChange={(event) => onFind(event.target.value)}
        onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
      />
    </section>
  );
}

function NewLab({ input }: { input: React.RefObject<HTMLInputElement | null> }) {
  const make = useMakeLab();
  const navigate = useNavigate();
  const [title, setTitle] = useState("");
  return (
    <section>
      <h2>A new lab</h2>
      <Form
        className="mt-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (title.trim() !== "")
            make.mutate(title.trim(), { onSuccess: ({ slug }) => void navigate(`/labs/${slug}/text`) });
        }}
      >
        <Form.Label htmlFor="new-title">Its title</Form.Label>
        <Form.Control
          id="new-title"
          ref={input}
          value={title}
          maxLength={120}
          placeholder="Two banks of the canal"
          onChange={(event) => setTitle(event.target.value)}
          onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
        />
        <Button
          type="submit"
          variant="primary"
          className="mt-3"
          disabled={title.trim() === "" || make.isPending}
        >
          Start it
        </Button>
      </Form>
      {make.error && <p className="said mt-3">{make.error.message}</p>}
      <p className="soft mt-3">
        It begins as two routers, two hosts and three pings that work: a text to change into your own.
      </p>
    </section>
  );
}
