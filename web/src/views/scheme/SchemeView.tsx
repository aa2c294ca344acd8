import { useEffect, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useWork } from "../../authoring/Authoring";
import { schemeOf, type Edit, type Look } from "../../authoring/calls";
import { Aside, Told, workKeys } from "../../authoring/Told";
import { useKept } from "../../authoring/useKept";
import { atStage, stageKey, Stages, useStage } from "../../design/Stages";
import type { Key } from "../../design/keys";
import { View, Waiting } from "../../design/View";
import { count, marks } from "../../design/words";
import { Chosen } from "./Chosen";
import { Rules } from "./Rules";
import { linesOf, type SchemeLine } from "./lines";
import "./scheme.css";

/** The marking scheme: tasks and criteria with their marks, derived or written out, and what each would earn. */
export function SchemeView() {
  const { look } = useWork();
  return look === null ? <Waiting error={null} /> : <Loaded look={look} />;
}

function Loaded({ look }: { look: Look }) {
  const navigate = useNavigate();
  const { work, state } = useWork();
  const { text, stage } = state;
  const [, setStage] = useStage();
  const [at, setAt] = useKept(`${work.slug} criterion`, 0);
  const [typing, setTyping] = useState<string | null>(null);
  const [shown, setShown] = useState<Schemas["SchemeView"] | null>(null);
  useEffect(() => {
    let stale = false;
    schemeOf({ text, stage, sheet: null }).then(
      (found) => !stale && setShown(found),
      () => undefined, // what cannot be read is told elsewhere
    );
    return () => {
      stale = true;
    };
  }, [text, stage]);
  if (shown === null) return <Waiting error={null} />;
  const { scheme } = shown;
  const lines = linesOf(scheme);
  const line = lines[Math.min(at, lines.length - 1)];
  const written = (...edits: Edit[]) =>
    work.edit(
      ...(scheme.derived && edits.some((e) => e.do !== "write-scheme")
        ? [{ do: "write-scheme" } as Edit]
        : []),
      ...edits,
    );
  const setMarks = (typed: string) => {
    setTyping(null);
    if (line?.criterion === undefined || !/^\d+([.,]\d+)?$/.test(typed.trim())) return;
    const value = typed.trim().replace(",", ".");
    void written({
      do: "put",
      place: `${line.place}.${line.each ? "each" : "marks"}`,
      value: value === "1" ? "" : value,
    });
  };
  const shift = (by: number) => () => {
    if (line === undefined || scheme.derived) return;
    const to = line.number + by;
    if (to < 0 || to >= line.of) return;
    void work.edit({ do: "move", place: line.place, to });
    const next = lines.findIndex(
      (own) =>
        own.task === line.task + (line.criterion ? 0 : by) &&
        own.number === to &&
        !own.criterion === !line.criterion,
    );
    if (next >= 0) setAt(next);
  };
  const remove = () => void (line && written({ do: "remove", places: [line.place] }));
  const addTask = () =>
    void written({
      do: "insert",
      place: `${scheme.place}.tasks`,
      values: [{ title: `Task ${scheme.tasks.length + 1}`, criteria: [] }],
    });
  const keys: Key[] = [
    { key: "↑ ↓", on: ["ArrowUp"], does: "move", run: () => setAt(Math.max(0, at - 1)) },
    { key: "ArrowDown", does: "", hidden: true, run: () => setAt(Math.min(lines.length - 1, at + 1)) },
    { key: "0–9", on: [], does: "marks" },
    ..."0123456789".split("").map((key) => ({
      key,
      does: "",
      hidden: true,
      run: () => line?.criterion && setTyping(key),
    })),
    { key: "[ ]", on: ["["], does: "earlier or later", run: shift(-1) },
    { key: "]", does: "", hidden: true, run: shift(1) },
    { key: "Del", on: ["Delete"], does: "take away", run: remove },
    { key: "n", does: "new task", run: addTask },
    ...(scheme.derived
      ? [{ key: "w", does: "write it out", run: () => void work.edit({ do: "write-scheme" }) }]
      : [
          {
            key: "b",
            does: "back to the derived one",
            run: () => void work.edit({ do: "remove", places: [`${scheme.place}.tasks`] }),
          },
        ]),
    ...workKeys(work),
    {
      key: "l",
      does: "the weave",
      run: () => void navigate(atStage(`/labs/${work.slug}`, look.stage)),
      more: true,
    },
    ...stageKey(look.stages, look.stage, setStage),
  ];
  const total =
    scheme.total === null
      ? ""
      : scheme.total === scheme.marks
        ? `, as the lab says`
        : `, and the lab says ${marks(scheme.total)}`;
  return (
    <View
      lab={{ slug: work.slug, title: look.title, stage: look.stage }}
      title={`${scheme.derived ? "The derived scheme" : "The scheme"}: ${marks(scheme.marks)} marks${total}`}
      about={
        scheme.derived
          ? "Worked out from what the model answer has beyond what is given. The first change writes it out."
          : `${count(scheme.tasks.length, "task")} in the lab's own words; strictness ${scheme.strictness}.`
      }
      aside={<Aside />}
      keys={keys}
      side={
        <>
          <Told />
          <Chosen
            line={line}
            shown={shown}
            onEdit={written}
            onShift={(by) => shift(by)()}
            onRemove={remove}
          />
          <Rules scheme={scheme} onEdit={work.edit} />
          {scheme.missing.length > 0 && <Missing scheme={scheme} task={line?.task ?? 0} onEdit={work.edit} />}
          {scheme.derived && (
            <Button size="sm" variant="light" onClick={() => void work.edit({ do: "write-scheme" })}>
              Write it out, to change it
            </Button>
          )}
        </>
      }
    >
      <Stages stages={look.stages} stage={look.stage} onTurn={setStage} />
      {lines.length === 0 && (
        <p className="soft">
          The model answer asks for nothing yet: give it addresses and routes, or expect pings.
        </p>
      )}
      <table className="table rows scheme">
        <thead>
          <tr>
            <th scope="col">Criterion</th>
            <th scope="col">The model answer has</th>
            <th scope="col">Blank</th>
            <th scope="col">Marks</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((own, n) => (
            <Row
              key={`${own.task} ${own.number} ${own.criterion?.id ?? "task"}`}
              line={own}
              blank={own.criterion && (shown.blank[own.criterion.id] ?? 0)}
              full={own.criterion && (shown.model[own.criterion.id] ?? 0)}
              current={n === at}
              typing={n === at ? typing : null}
              onChoose={() => setAt(n)}
              onType={(value) => setTyping(value)}
              onMarks={setMarks}
            />
          ))}
        </tbody>
      </table>
    </View>
  );
}

interface RowProps {
  line: SchemeLine;
  blank: number | undefined;
  full: number | undefined;
  current: boolean;
  typing: string | null;
  onChoose: () => void;
  onType: (value: string | null) => void;
  onMarks: (typed: string) => void;
}

function Row({ line, blank, full, current, typing, onChoose, onType, onMarks }: RowProps) {
  const { criterion } = line;
  if (criterion === undefined)
    return (
      <tr aria-current={current} className="task" onClick={onChoose}>
        <th scope="rowgroup" colSpan={3}>
          {line.title}
        </th>
        <td className="number">{marks(line.marks)}</td>
      </tr>
    );
  const short = full !== undefined && full < criterion.marks - 1e-9;
  return (
    <tr aria-current={current} onClick={onChoose}>
      <td className="mono">
        {[criterion.key, criterion.device, criterion.operand].filter((part) => part !== "").join(" ")}
      </td>
      <td className="mono asks">
        {criterion.asks}
        {short && <b> not met by the model answer</b>}
      </td>
      <td className="number">{blank ? marks(blank) : ""}</td>
      <td className="number">
        {typing === null ? (
          <button
            type="button"
            className="cell"
            onClick={() => (current ? onType(marks(criterion.marks)) : onChoose())}
          >
            {marks(criterion.marks)}
          </button>
        ) : (
          <Form.Control
            size="sm"
            aria-label="Marks"
            autoFocus
            defaultValue={typing}
            onBlur={() => onType(null)}
            onKeyDown={(event) => {
              if (event.key === "Enter") onMarks(event.currentTarget.value);
              else if (event.key === "Escape") onType(null);
              else return;
              event.preventDefault();
              event.stopPropagation();
            }}
          />
        )}
      </td>
    </tr>
  );
}

/** What the derived scheme would ask beyond the written one. */
function Missing({
  scheme,
  task,
  onEdit,
}: {
  scheme: Schemas["SchemeRows"];
  task: number;
  onEdit: (...e: Edit[]) => unknown;
}) {
  return (
    <section>
      <h2>Not asked by this scheme</h2>
      {scheme.missing.slice(0, 12).map((own) => (
        <p key={own.id} className="mb-1">
          <button
            type="button"
            className="place"
            onClick={() =>
              void onEdit({
                do: "insert",
                place: `${scheme.place}.tasks[${task}].criteria`,
                values: [own.further],
              })
            }
          >
            add
          </button>{" "}
          <span className="mono">{own.id}</span>
        </p>
      ))}
      {scheme.missing.length > 12 && <p className="soft">And {scheme.missing.length - 12} more.</p>}
    </section>
  );
}
