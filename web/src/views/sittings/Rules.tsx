import { useState, type SyntheticEvent } from "react";
import { Button, Form } from "react-bootstrap";
import type { Schemas } from "../../api/client";
import { useChangeSitting } from "../../api/sittings";

type Settings = Schemas["SittingSettings"];

/** A moment as the field for it has it, in the reader's own time; empty where there is none. */
const typed = (iso: string | null) => {
  if (iso === null) return "";
  const at = new Date(iso);
  return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
};
const meant = (text: string) => (text === "" ? null : new Date(text).toISOString());

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
      <Form.Group controlId="rule-title">
        <Form.Label>Title</Form.Label>
        <Form.Control
          required
          maxLength={120}
          value={own.title}
          onChange={(event) => setOwn({ ...own, title: event.target.value })}
        />
      </Form.Group>
      <Form.Group controlId="rule-opens">
        <Form.Label>Opens</Form.Label>
        <Form.Control
          type="datetime-local"
          value={typed(rules.opens)}
          onChange={(event) => set({ opens: meant(event.target.value) })}
        />
      </Form.Group>
      <Form.Group controlId="rule-closes">
        <Form.Label>Closes</Form.Label>
        <Form.Control
          type="datetime-local"
          value={typed(rules.closes)}
          onChange={(event) => set({ closes: meant(event.target.value) })}
        />
      </Form.Group>
      <Form.Group controlId="rule-late">
        <Form.Label>A late paper</Form.Label>
        <Form.Select
          value={rules.late}
          onChange={(event) => set({ late: event.target.value as Settings["rules"]["late"] })}
        >
          <option value="marked">is marked as any other</option>
          <option value="charged">loses a part for each day begun</option>
          <option value="refused">does not count</option>
        </Form.Select>
      </Form.Group>
      {rules.late === "charged" && (
        <>
          <Form.Group controlId="rule-percent">
            <Form.Label>Per cent of its total a day</Form.Label>
            <Form.Control
              type="number"
              min={0}
              max={100}
              step="any"
              required
              value={rules.percent}
              onChange={(event) => set({ percent: Number(event.target.value) })}
            />
          </Form.Group>
          <Form.Group controlId="rule-most">
            <Form.Label>Per cent at most</Form.Label>
            <Form.Control
              type="number"
              min={0}
              max={100}
              step="any"
              required
              value={rules.most_percent}
              onChange={(event) => set({ most_percent: Number(event.target.value) })}
            />
          </Form.Group>
        </>
      )}
      <Form.Group controlId="rule-counts">
        <Form.Label>Of several papers</Form.Label>
        <Form.Select
          value={rules.counts}
          onChange={(event) => set({ counts: event.target.value as Settings["rules"]["counts"] })}
        >
          <option value="last">the last counts</option>
          <option value="first">the first counts</option>
          <option value="best">the best counts</option>
        </Form.Select>
      </Form.Group>
      <Form.Group controlId="rule-attempts">
        <Form.Label>Attempts (0: any number)</Form.Label>
        <Form.Control
          type="number"
          min={0}
          max={1000}
          required
          value={rules.attempts}
          onChange={(event) => set({ attempts: Math.trunc(Number(event.target.value)) })}
        />
      </Form.Group>
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
