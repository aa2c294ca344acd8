import type { Schemas } from "../api/client";
import { moment } from "./words";

/** What was changed about marks: who, when, and why. */
export const Log = ({ entries }: { entries: Schemas["EntryShape"][] }) =>
  entries.map((entry, n) => (
    <p key={`${entry.made_at} ${n}`} className="mb-2">
      {[entry.learner, entry.what].filter((part) => part !== "").join(": ")}
      {entry.told !== "" && `, ${entry.told}`}
      {entry.reason !== "" && <i> “{entry.reason}”</i>}
      <span className="soft d-block">
        {moment(entry.made_at)}
        {entry.who !== "" && `, ${entry.who}`}
      </span>
    </p>
  ));
