import type { RefObject } from "react";
import { Form } from "react-bootstrap";
import type { Schemas } from "../../api/client";
import { count } from "../../design/words";
import { ALL, type Column, type Filter } from "./order";

interface Props {
  view: Schemas["ClassView"];
  columns: Column[];
  filter: Filter;
  shown: number;
  search: RefObject<HTMLInputElement | null>;
  onFilter: (more: Partial<Filter>) => void;
}

/** Which learners are shown: by name, group, how they handed in, and the verdict on a task. */
export function Filters({ view, columns, filter, shown, search, onFilter }: Props) {
  const groups = [...new Set(view.learners.map((row) => row.group))].filter((group) => group !== "");
  const some = JSON.stringify(filter) !== JSON.stringify(ALL);
  const choice = <Name extends keyof Filter>(
    name: Name,
    label: string,
    options: [Filter[Name], string][],
  ) => (
    <Form.Select
      size="sm"
      aria-label={label}
      value={filter[name]}
      onChange={(event) => onFilter({ [name]: event.target.value })}
    >
      {options.map(([value, words]) => (
        <option key={value} value={value}>
          {words}
        </option>
      ))}
    </Form.Select>
  );
  return (
    <div className="class-find">
      <Form.Control
        ref={search}
        size="sm"
        aria-label="Find a learner"
        placeholder="find a learner"
        value={filter.text}
        onChange={(event) => onFilter({ text: event.target.value })}
        onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
      />
      {groups.length > 1 &&
        choice("group", "Group", [["", "every group"], ...groups.map((g): [string, string] => [g, g])])}
      {choice("arrived", "How it was handed in", [
        ["", "all"],
        ["doubtful", "to be looked at"],
        ["awaited", "nothing that counts"],
        ["late", "late"],
        ["in time", "in time"],
        ["overruled", "overruled"],
      ])}
      {choice("verdict", "Verdict", [
        ["", "any marks"],
        ["met", "all marks"],
        ["partly", "some marks"],
        ["missed", "no marks"],
      ])}
      {filter.verdict !== "" &&
        choice("column", "Of which task", [
          ["", "in all"],
          ...columns.map((own): [string, string] => [own.name, own.name]),
        ])}
      {some && (
        <span>
          {count(shown, "learner")}
          {filter.mistake !== "" && ` with ${filter.mistake.toLocaleLowerCase()}`}{" "}
          <button type="button" className="as-link" onClick={() => onFilter(ALL)}>
            show all
          </button>
        </span>
      )}
    </div>
  );
}
