import { useState } from "react";
import { Form } from "react-bootstrap";
import type { Schemas } from "../../api/client";
import { useChangeSeat, useGroups, useMoreSeats } from "../../api/sittings";
import { count } from "../../design/words";
import { Erase } from "./Erase";

type Sitting = Schemas["SittingView"];
type Seat = Schemas["SeatShape"];

/** The learners of a sitting, with their teams and numbers: to be changed before the first hand-in. */
export function Seats({ sitting }: { sitting: Sitting }) {
  const { seats, variables } = sitting;
  const more = useMoreSeats(sitting.number);
  const groups = useGroups().data?.groups ?? [];
  return (
    <section className="seats">
      <h2>{seats.length === 0 ? "No learners yet" : count(seats.length, "learner")}</h2>
      {seats.length === 0 && (
        <p className="soft">Take in a group, or hand in an archive: the names in it are the learners.</p>
      )}
      <p className="port-acts">
        <Form.Select
          size="sm"
          aria-label="Take in a group"
          value=""
          onChange={(event) => more.mutate([Number(event.target.value)])}
        >
          <option value="" disabled>
            take in a group …
          </option>
          {groups.map((group) => (
            <option key={group.number} value={group.number}>
              {group.title}, {count(group.learners, "learner")}
            </option>
          ))}
        </Form.Select>
        {variables.length > 0 && seats.length > 0 && (
          <a href={`/numbers/${sitting.number}.csv`}>their numbers as CSV</a>
        )}
      </p>
      {more.error && <p className="pencil">{more.error.message}</p>}
      {seats.length > 0 && (
        <table className="table rows">
          <thead>
            <tr>
              <th scope="col">Learner</th>
              <th scope="col">Id</th>
              <th scope="col">Group</th>
              <th scope="col">Team</th>
              {variables.map((variable) => (
                <th key={variable.name} scope="col" className="number">
                  {variable.name}
                </th>
              ))}
              <th scope="col">
                <span className="visually-hidden">What can be done</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {seats.map((seat) => (
              <SeatRow key={JSON.stringify(seat)} sitting={sitting} seat={seat} />
            ))}
          </tbody>
        </table>
      )}
      {seats.length > 0 && <Erase seats={seats} />}
    </section>
  );
}

function SeatRow({ sitting, seat }: { sitting: Sitting; seat: Seat }) {
  const change = useChangeSeat(sitting.number);
  const [editing, setEditing] = useState(false);
  const [team, setTeam] = useState(seat.learner.team);
  const [drawn, setDrawn] = useState(seat.drawn);
  const { learner } = seat;
  const save = () => change.mutate({ code: learner.code, team, drawn });
  const onKeyDown = (event: React.KeyboardEvent) => {
    if (event.key === "Enter") save();
    if (event.key === "Escape") setEditing(false);
    event.stopPropagation();
  };
  return (
    <tr>
      <td>{learner.name}</td>
      <td className="mono">{learner.code}</td>
      <td className="soft">{seat.group}</td>
      <td>
        {editing ? (
          <Form.Control
            size="sm"
            autoFocus
            aria-label={`Team of ${learner.name}`}
            value={team}
            onChange={(event) => setTeam(event.target.value)}
            onKeyDown={onKeyDown}
          />
        ) : (
          learner.team
        )}
      </td>
      {sitting.variables.map(({ name, low, high }) => (
        <td key={name} className="number">
          {editing ? (
            <Form.Control
              size="sm"
              type="number"
              min={low}
              max={high}
              aria-label={`${name} of ${learner.name}`}
              value={drawn[name] ?? low}
              onChange={(event) => setDrawn({ ...drawn, [name]: Number(event.target.value) })}
              onKeyDown={onKeyDown}
            />
          ) : (
            seat.drawn[name]
          )}
        </td>
      ))}
      <td>
        {seat.handed_in ? (
          <span className="soft">handed in</span>
        ) : editing ? (
          <>
            <button type="button" className="as-link" disabled={change.isPending} onClick={save}>
              save
            </button>
            {change.error && <span className="pencil d-block">{change.error.message}</span>}
          </>
        ) : (
          <button
            type="button"
            className="as-link"
            aria-label={`Change ${learner.name}`}
            onClick={() => setEditing(true)}
          >
            change
          </button>
        )}
      </td>
    </tr>
  );
}
