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
  const labs = useLabs();
  const navigate = useNavigate();
  const [at, setAt] = useState(0);
  const title = useRef<HTMLInputElement>(null);
  if (labs.data === undefined) return <Waiting error={labs.error} />;
  const all = labs.data;
  const chosen = all[Math.min(at, all.length - 1)];
  return (
    <View
      title={
        all.length === 0 ? "No labs yet" : `${inWords(all.length, true)} ${all.length === 1 ? "lab" : "labs"}`
      }
      about={
        all.length === 0
          ? "Start one at the right: it begins as a small lab that works, and becomes yours."
          : "Each with what its check says, and the papers handed in."
      }
      side={<NewLab input={title} />}
      keys={[
        { key: "↑", on: ["ArrowUp"], does: "lab before", run: () => setAt(Math.max(0, at - 1)) },
        { key: "↓", on: ["ArrowDown"], does: "next lab", run: () => setAt(Math.min(all.length - 1, at + 1)) },
        ...(chosen
          ? [{ key: "Enter", does: "open it", run: () => void navigate(`/labs/${chosen.slug}`) }]
          : []),
        ...(chosen
          ? [{ key: "p", does: "its papers", run: () => void navigate(`/labs/${chosen.slug}/papers`) }]
          : []),
        { key: "n", does: "new lab", run: () => title.current?.focus() },
      ]}
    >
      <div className="shelf">
        {all.map((lab, n) => (
          <Card key={lab.slug} lab={lab} current={lab === chosen} onPoint={() => setAt(n)} />
        ))}
      </div>
    </View>
  );
}

function Card({ lab, current, onPoint }: { lab: Schemas["LabCard"]; current: boolean; onPoint: () => void }) {
  return (
    <article className="lab-card" aria-current={current} onMouseEnter={onPoint}>
      <Link to={`/labs/${lab.slug}`} className="picture" tabIndex={-1} aria-hidden="true">
        <SmallWeave weave={lab.weave} />
      </Link>
      <div>
        <h2>
          <Link to={`/labs/${lab.slug}`}>{lab.title}</Link>
        </h2>
        <p className="soft">
          {[lab.level, ...lab.topics].filter(Boolean).join(", ")}
          {lab.minutes !== null && `, ${lab.minutes} minutes`}
        </p>
        <p>
          {count(lab.devices, "device")}, {count(lab.networks, "network")}, {marks(lab.out_of)} marks.{" "}
          {lab.errors === 0 ? (
            "The check finds nothing wrong."
          ) : (
            <b>
              {inWords(lab.errors, true)} {lab.errors === 1 ? "finding" : "findings"} to mend.
            </b>
          )}
        </p>
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
