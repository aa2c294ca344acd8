import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { useNavigate } from "react-router";
import { useWork } from "../../authoring/Authoring";
import type { Look } from "../../authoring/calls";
import { Aside, Told, workKeys } from "../../authoring/Told";
import { atStage, useStage } from "../../design/Stages";
import { View, Waiting } from "../../design/View";
import { Findings } from "../lab/Findings";
import { Typed } from "./Typed";
import { Variables } from "./Variables";
import { Labelled } from "../../design/Labelled";

/** What the lab is: title, brief, where it stands on the shelf, its stages, and the numbers that differ by learner. */
export function AboutView() {
  const { look } = useWork();
  return look === null ? <Waiting error={null} /> : <Loaded look={look} />;
}

function Loaded({ look }: { look: Look }) {
  const navigate = useNavigate();
  const { work, state } = useWork();
  const facts = factsOf(state.text);
  const put = (place: string) => (value: string) => void work.edit({ do: "put", place, value });
  const putTopics = (typed: string) => {
    const topics = typed.split(",").flatMap((one) => (one.trim() === "" ? [] : [one.trim()]));
    void work.edit(
      { do: "remove", places: ["topics"] },
      ...(topics.length > 0 ? [{ do: "insert" as const, place: "topics", values: topics }] : []),
    );
  };
  return (
    <View
      lab={{ slug: work.slug, title: look.title, stage: look.stage }}
      title="About this lab"
      about="What learners read first, where the lab stands on the shelf, its stages, and what differs from learner to learner."
      aside={<Aside />}
      keys={[
        ...workKeys(work),
        { key: "l", does: "the weave", run: () => void navigate(atStage(`/labs/${work.slug}`, look.stage)) },
      ]}
      side={
        <>
          <Told />
          <Variables look={look} />
          <Findings />
        </>
      }
    >
      <div className="about">
        <Typed label="Title" value={look.title} onWrite={put("title")} />
        <Typed
          label="Brief, as learners read it (Markdown)"
          value={facts.brief}
          rows={6}
          onWrite={put("brief")}
        />
        <div className="about-row">
          <Typed label="Topics, with commas between them" value={facts.topics} onWrite={putTopics} />
          <Typed label="Level" value={facts.level} onWrite={put("level")} />
          <Typed label="Minutes" value={facts.minutes} onWrite={put("minutes")} />
        </div>
        <StageList look={look} />
      </div>
    </View>
  );
}

/** Reads the plain keys of the lab file that are shown as they are typed. */
function factsOf(text: string) {
  const one = (key: string) => new RegExp(`^${key}: *(.*)$`, "m").exec(text)?.[1]?.trim() ?? "";
  const block = /^brief: *[|>][-+0-9]*\n((?:(?: {2,}.*)?\n)*)/m.exec(`${text}\n`)?.[1];
  const unquoted = (value: string) => value.replace(/^"(.*)"$/, "$1");
  return {
    brief: block === undefined ? unquoted(one("brief")) : block.replace(/^ {2}/gm, "").trimEnd(),
    topics: one("topics").replace(/^\[|\]$/g, ""),
    level: unquoted(one("level")),
    minutes: one("minutes"),
  };
}

/** The stages in the order in which they are sat: added, renamed, moved, taken away. */
function StageList({ look }: { look: Look }) {
  const { work } = useWork();
  const [, setStage] = useStage();
  const [title, setTitle] = useState("");
  const add = async () => {
    const id =
      title
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, "-")
        .replace(/^-|-$/g, "") || "stage";
    if (await work.edit({ do: "add-stage", id, title: title.trim() })) {
      setTitle("");
      setStage(id);
    }
  };
  return (
    <section className="mt-4">
      <h2>{look.stages.length === 0 ? "No stages: everything is asked at once" : "Stages, in this order"}</h2>
      {look.stages.map((stage, n) => (
        <div className="entry stage-entry" key={stage.id}>
          <Typed
            label={`Stage ${n + 1}, ${stage.id}`}
            value={stage.title}
            onWrite={(value) => void work.edit({ do: "put", place: `stages[${n}].title`, value })}
          />
          <p className="port-acts">
            <button type="button" className="place" onClick={() => setStage(stage.id)}>
              look at it
            </button>
            {n > 0 && (
              <button
                type="button"
                className="place"
                onClick={() => void work.edit({ do: "move-stage", id: stage.id, to: n - 1 })}
              >
                earlier
              </button>
            )}
            {look.stages.length > 1 && (
              <button
                type="button"
                className="place"
                onClick={() => void work.edit({ do: "remove-stage", id: stage.id })}
              >
                remove
              </button>
            )}
          </p>
          {stage.id === look.stage && <Taken look={look} number={n} />}
        </div>
      ))}
      <Form
        className="d-flex gap-2 mt-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (title.trim() !== "") void add();
        }}
      >
        <Form.Control
          aria-label="Title of a new stage"
          placeholder="Title of a new stage"
          value={title}
          onChange={(event) => setTitle(event.target.value)}
        />
        <Button type="submit" variant="light">
          Add
        </Button>
      </Form>
    </section>
  );
}

/** What the stage that is looked at takes away of the one before, a device at a time. */
function Taken({ look, number }: { look: Look; number: number }) {
  const { work } = useWork();
  const [device, setDevice] = useState(look.devices[0]?.device ?? "");
  if (number === 0) return null;
  const own = look.devices.find((one) => one.device === device);
  const place = `stages[${number}].remove.${device}`;
  const write = (typed: string) => {
    const words = typed.split("\n").flatMap((line) => (line.trim() === "" ? [] : [line.trim()]));
    void work.edit(
      { do: "remove", places: [place] },
      ...(words.length > 0 ? [{ do: "insert" as const, place, values: words }] : []),
    );
  };
  return (
    <div className="mt-2">
      <Labelled id="taken-device" label="This stage takes away from" className="mb-2">
        <Form.Select size="sm" value={device} onChange={(event) => setDevice(event.target.value)}>
          {look.devices.map((one) => (
            <option key={one.device}>{one.device}</option>
          ))}
        </Form.Select>
      </Labelled>
      <Typed
        key={device}
        label="First words of statements or headers, one a line"
        value={own?.taken.join("\n") ?? ""}
        rows={3}
        onWrite={write}
      />
    </div>
  );
}
