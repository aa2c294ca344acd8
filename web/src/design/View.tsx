import type { ReactNode } from "react";
import { useEffect, useState } from "react";
import { Modal } from "react-bootstrap";
import { Link, NavLink } from "react-router";
import type { Schemas } from "../api/client";
import { atOccasion } from "../api/occasion";
import { useSession, useSignOut } from "../api/queries";
import { useKeys, type Keys } from "../keyboard/useKeys";
import type { Key } from "./keys";
import { atStage } from "./Stages";

interface Props {
  lab?: { slug: string; title: string; stage?: string; sitting?: Schemas["SittingRef"] | null };
  /** Whether the view belongs to the lab's papers, whose address is elsewhere. */
  ofPapers?: boolean;
  title: ReactNode;
  about?: ReactNode;
  aside?: ReactNode;
  side?: ReactNode;
  keys?: Key[];
  /** Whether it is a view to type in, where a question mark is typed. */
  typed?: boolean;
  children: ReactNode;
}

/** The frame of every view: head with the lab's pages, work, the column that explains it, keys. */
export function View({
  lab,
  ofPapers = false,
  title,
  about,
  aside,
  side,
  keys = [],
  typed = false,
  children,
}: Props) {
  const [help, setHelp] = useState(false);
  const bound: Keys = { "?": () => setHelp(true), F1: () => setHelp(true) };
  for (const { key, on, run } of keys) for (const name of on ?? [key]) bound[name] = run;
  useKeys(bound);
  useEffect(() => {
    document.title = typeof title === "string" ? `${title} · Zensur` : "Zensur";
  }, [title]);
  const page = (of: string) => atStage(`/labs/${lab?.slug ?? ""}${of}`, lab?.stage ?? "");
  const sitting = lab?.sitting ?? null;
  const papers = (of: string) =>
    atOccasion(`/labs/${lab?.slug ?? ""}${of}`, { stage: lab?.stage ?? "", sitting: sitting?.number ?? 0 });
  const shown = keys.filter((key) => key.hidden !== true);
  return (
    <div className="view">
      <header className="view-head">
        <Link className="brand" to="/">
          Zensur
        </Link>
        {lab === undefined && <Places />}
        {lab && (
          <>
            <Link className="lab" to={page("")}>
              {lab.title}
            </Link>
            {sitting && (
              <nav aria-label="Pages of the sitting">
                <NavLink to={`/sittings/${sitting.number}`}>{sitting.title}</NavLink>
                <NavLink to={papers("/papers")} className={({ isActive }) => active(isActive || ofPapers)}>
                  Papers
                </NavLink>
                <NavLink to={papers("/class")}>Class</NavLink>
              </nav>
            )}
            {!sitting && (
              <nav aria-label="Pages of the lab">
                <NavLink to={page("")} end>
                  Lab
                </NavLink>
                <NavLink to={page("/plan")}>Plan</NavLink>
                <NavLink to={page("/pings")}>Pings</NavLink>
                <NavLink to={page("/scheme")}>Scheme</NavLink>
                <NavLink to={page("/bench")}>Bench</NavLink>
                <NavLink to={page("/about")}>About</NavLink>
                <NavLink to={page("/text")}>Text</NavLink>
                <NavLink to={papers("/papers")} className={({ isActive }) => active(isActive || ofPapers)}>
                  Papers
                </NavLink>
                <NavLink to={papers("/class")}>Class</NavLink>
              </nav>
            )}
          </>
        )}
        <div className="aside">{aside}</div>
        <SignedIn />
      </header>
      <div className={side === undefined ? "view-body wide" : "view-body"}>
        <div className="view-work">
          <main className="view-main">
            <div className="title">
              <h1>{title}</h1>
              {about !== undefined && <p>{about}</p>}
            </div>
            {children}
          </main>
          <footer className="keys" aria-label="Keys of this view">
            {shown
              .filter((own) => own.more !== true)
              .map(({ key, does }) => (
                <span key={key}>
                  <kbd>{key}</kbd>
                  {does}
                </span>
              ))}
            <span>
              <kbd>{typed ? "F1" : "?"}</kbd>keys
            </span>
          </footer>
        </div>
        {side !== undefined && <aside className="view-side">{side}</aside>}
      </div>
      <Modal show={help} onHide={() => setHelp(false)} aria-labelledby="keys-title">
        <Modal.Body>
          <h2 id="keys-title">Keys of this view</h2>
          <table className="table mt-3">
            <tbody>
              {[...shown, { key: "Esc", does: "close this" }].map(({ key, does }) => (
                <tr key={key}>
                  <td>
                    <kbd>{key}</kbd>
                  </td>
                  <td>{does}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Modal.Body>
      </Modal>
    </div>
  );
}

/** Who is signed in, and the way out; nothing where nobody has to be. */
function SignedIn() {
  const name = useSession().data?.name ?? "";
  const signOut = useSignOut();
  const [open, setOpen] = useState(false);
  if (name === "") return null;
  return (
    <div className="signed-in">
      <button type="button" className="as-link" aria-expanded={open} onClick={() => setOpen(!open)}>
        {name}
      </button>
      {open && (
        <>
          <button type="button" className="as-link" onClick={() => signOut.mutate(false)}>
            sign out
          </button>
          <button type="button" className="as-link" onClick={() => signOut.mutate(true)}>
            everywhere
          </button>
        </>
      )}
    </div>
  );
}

const active = (is: boolean) => (is ? "active" : "");

/** The places that belong to no lab. */
const Places = () => (
  <nav aria-label="Places">
    <NavLink to="/" end>
      Labs
    </NavLink>
    <NavLink to="/sittings">Sittings</NavLink>
    <NavLink to="/groups">Groups</NavLink>
  </nav>
);

/** What stands in place of a view until its data are there, or where they cannot be had. */
export function Waiting({ error }: { error: Error | null }) {
  return (
    <div className="view">
      <header className="view-head">
        <Link className="brand" to="/">
          Zensur
        </Link>
      </header>
      <main className="waiting">
        <h1>{error ? "This cannot be shown" : "One moment …"}</h1>
        {error && (
          <p>
            {error.message} <Link to="/">To the labs</Link>
          </p>
        )}
      </main>
    </div>
  );
}
