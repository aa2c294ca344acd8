import { useState, type SyntheticEvent } from "react";
import { Button, Form } from "react-bootstrap";
import type { Schemas } from "../../api/client";
import { useChangeSitting } from "../../api/sittings";
import { Labelled } from "../../design/Labelled";

type Settings = Schemas["SittingSettings"];

/** A moment as the field for it has it, in the reader's own time; empty where there is none. */
const typed = (iso: string | null) => {
  if (iso === null) return "";
  const at = new Date(iso);
  return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
};
const meant = (text: string) => (text === "" ? null : new Date(text).toISOString());

const PER_CENT = { percent: "Per cent of its total a day", most_percent: "Per cent at most" };

/** Title and rules of a sitting, to be changed; what counts is worked out anew. */
export function Rules({ sitting }: { sitting: Schemas["SittingView"] }) {
  const change = useChangeSitting(sitting.number);
  const [own, setOwn] = useState<Settings>(sitting.settings);
  const { rules } = own;
  const set = (more: Partial<Settings["rules"]>) => setOwn({ ...own, rules: { ...rules, ...more } });
  const changed = JSON.stringify(own) !== JSON.stringify(sitting.settings);
  const send = (event: SyntheticEvent) => {
    event.preventDefault();
    change.mutate(own);
  };
  return (
    <Form className="sitting-rules" onSubmit={send}>
      <Labelled id="rule-title" label="Title">
        <Form.Control
          required
          maxLength={120}
          value={own.title}
          onChange={(event) => setOwn({ ...own, title: event.target.value })}
        />
      </Labelled>
      {(["opens", "closes"] as const).map((moment) => (
        <Labelled key={moment} id={`rule-${moment}`} label={moment === "opens" ? "Opens" : "Closes"}>
          <Form.Control
            type="datetime-local"
            value={typed(rules[moment])}
            onChange={(event) => set({ [moment]: meant(event.target.value) })}
          />
        </Labelled>
      ))}
      <Labelled id="rule-late" label="A late paper">
        <Form.Select
          value={rules.late}
          onChange={(event) => set({ late: event.target.value as Settings["rules"]["late"] })}
        >
          <option value="marked">is marked as any other</option>
          <option value="charged">loses a part for each day begun</option>
          <option value="refused">does not count</option>
        </Form.Select>
      </Labelled>
      {rules.late === "charged" &&
        Object.entries(PER_CENT).map(([name, label]) => (
          <Labelled key={name} id={`rule-${name}`} label={label}>
            <Form.Control
              type="number"
              min={0}
              max={100}
              step="any"
              required
              value={rules[name as keyof typeof PER_CENT]}
              onChange={(event) => set({ [name]: Number(event.target.value) })}
            />
          </Labelled>
        ))}
      <Labelled id="rule-counts" label="Of several papers">
        <Form.Select
          value={rules.counts}
          onChange={(event) => set({ counts: event.target.value as Settings["rules"]["counts"] })}
        >
          <option value="last">the last counts</option>
          <option value="first">the first counts</option>
          <option value="best">the best counts</option>
        </Form.Select>
      </Labelled>
      <Labelled id="rule-attempts" label="Attempts (0: any number)">
        <Form.Control
          type="number"
          min={0}
          max={1000}
          required
          value={rules.attempts}
          onChange={(event) => set({ attempts: Math.trunc(Number(event.target.value)) })}
        />
      </Labelled>
      <Form.Check
        id="rule-blind"
        label="Blind: no names before the marks are released"
        checked={own.blind}
        onChange={() => setOwn({ ...own, blind: !own.blind })}
      />
      <div className="ending">
        <Button type="submit" variant="primary" disabled={!changed || change.isPending}>
          Save the rules
        </Button>
        {change.error && <span className="pencil"> {change.error.message}</span>}
      </div>
    </Form>
  );
}
