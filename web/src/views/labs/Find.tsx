import { Form } from "react-bootstrap";
import type { AskedLabs } from "../../api/queries";

interface Props {
  input: React.RefObject<HTMLInputElement | null>;
  asked: AskedLabs;
  topics: string[];
  levels: string[];
  onAsk: (more: Partial<AskedLabs>) => void;
}

/** Finds labs on the shelf: by words, by topic and level, or those that were removed. */
export function Find({ input, asked, topics, levels, onAsk }: Props) {
  return (
    <section className="mb-4">
      <Form.Label htmlFor="find-lab">Find a lab</Form.Label>
      <Form.Control
        id="find-lab"
        ref={input}
        type="search"
        value={asked.find}
        maxLength={120}
        placeholder="title, topic or level"
        onChange={(event) => onAsk({ find: event.target.value })}
        onKeyDown={(event) => ["Escape", "Enter"].includes(event.key) && event.currentTarget.blur()}
      />
      <div className="find-by">
        <Choice
          name="Topic"
          all="all topics"
          value={asked.topic}
          of={topics}
          onChoose={(topic) => onAsk({ topic })}
        />
        <Choice
          name="Level"
          all="all levels"
          value={asked.level}
          of={levels}
          onChoose={(level) => onAsk({ level })}
        />
      </div>
      <Form.Check
        id="find-removed"
        className="mt-2"
        label="removed labs"
        checked={asked.removed}
        onChange={(event) => onAsk({ removed: event.target.checked })}
      />
    </section>
  );
}

interface ChoiceProps {
  name: string;
  all: string;
  value: string;
  of: string[];
  onChoose: (value: string) => void;
}

function Choice({ name, all, value, of, onChoose }: ChoiceProps) {
  if (of.length === 0) return null;
  return (
    <Form.Select aria-label={name} value={value} onChange={(event) => onChoose(event.target.value)}>
      <option value="">{all}</option>
      {of.map((one) => (
        <option key={one}>{one}</option>
      ))}
    </Form.Select>
  );
}
