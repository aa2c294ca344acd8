import { useState, type SyntheticEvent } from "react";
import { Button, Form } from "react-bootstrap";
import { useWork } from "../../authoring/Authoring";
import { variantOf, type Look } from "../../authoring/calls";
import { count } from "../../design/words";
import { Weave } from "../../weave/Weave";

/** The numbers that differ from learner to learner: their ranges, and the lab as one learner has it. */
export function Variables({ look }: { look: Look }) {
  const { work } = useWork();
  const [name, setName] = useState("");
  const [range, setRange] = useState("");
  const names = Object.keys(look.variables);
  const add = async (event: SyntheticEvent) => {
    event.preventDefault();
    const found = /^\s*(\d+)\s*(?:-|–|to|\s)\s*(\d+)\s*$/.exec(range);
    if (found === null || name.trim() === "") return;
    const value = { from: found[1] ?? "0", to: found[2] ?? "0" };
    if (await work.edit({ do: "add", place: `variables.${name.trim()}`, value })) {
      setName("");
      setRange("");
    }
  };
  return (
    <section>
      <h2>
        {names.length === 0 ? "The same for every learner" : `${count(names.length, "number")} of their own`}
      </h2>
      <p className="soft">
        A number that differs from learner to learner stands as <code>{"${NAME}"}</code> anywhere in the lab.
      </p>
      {Object.entries(look.variables).map(([own, [from = 0, to = 0]]) => (
        <p key={own} className="mb-1">
          <code>{`\${${own}}`}</code> from {from} to {to}{" "}
          <button
            type="button"
            className="place"
            onClick={() => void work.edit({ do: "remove", places: [`variables.${own}`] })}
          >
            remove
          </button>
        </p>
      ))}
      <Form className="d-flex gap-2 my-2" onSubmit={(event) => void add(event)}>
        <Form.Control
          size="sm"
          aria-label="Name of a number"
          placeholder="site"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <Form.Control
          size="sm"
          aria-label="From and to"
          placeholder="16 to 47"
          value={range}
          onChange={(event) => setRange(event.target.value)}
        />
        <Button size="sm" type="submit" variant="light">
          Add
        </Button>
      </Form>
      {names.length > 0 && <AsLearner look={look} />}
    </section>
  );
}

/** The lab with the numbers of one learner: typed, or drawn. */
function AsLearner({ look }: { look: Look }) {
  const { state } = useWork();
  const [values, setValues] = useState(() =>
    Object.fromEntries(Object.entries(look.variables).map(([name, [from = 0]]) => [name, from])),
  );
  const [seen, setSeen] = useState<Look | null>(null);
  const [said, setSaid] = useState("");
  const show = (next: Record<string, number>) => {
    setValues(next);
    variantOf({ text: state.text, stage: state.stage, sheet: null, values: next }).then(
      (found) => {
        setSeen(found);
        setSaid("");
      },
      (error: unknown) => setSaid(error instanceof Error ? error.message : ""),
    );
  };
  const draw = () =>
    show(
      Object.fromEntries(
        Object.entries(look.variables).map(([name, [from = 0, to = 0]]) => [
          name,
          from + Math.floor(Math.random() * (to - from + 1)),
        ]),
      ),
    );
  const failing = seen?.pings.filter((p) => p.as_expected === false).length ?? 0;
  return (
    <>
      <div className="d-flex flex-wrap gap-2 align-items-center">
        {Object.entries(values).map(([name, value]) => (
          <Form.Control
            key={name}
            size="sm"
            type="number"
            aria-label={`Value of ${name}`}
            style={{ width: 90 }}
            value={value}
            onChange={(event) => show({ ...values, [name]: Number(event.target.value) })}
          />
        ))}
        <button type="button" className="mend" onClick={draw}>
          Look at it as another learner
        </button>
      </div>
      {said !== "" && <p className="said mt-2">{said}</p>}
      {seen !== null && (
        <>
          <p className="mt-2">
            {failing === 0
              ? `All ${count(seen.pings.length, "ping")} hold with these numbers.`
              : `${failing} of ${count(seen.pings.length, "ping")} do not hold with these numbers.`}
          </p>
          <div className="variant-weave">
            <Weave weave={seen.weave} />
          </div>
        </>
      )}
    </>
  );
}
