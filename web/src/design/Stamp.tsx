import "./stamp.css";

export type Verdict = "met" | "partly" | "missed";

/** The marker's sign in the margin: a tick, a half-filled stamp, a pencil stroke; each with its word. */
export function Stamp({ verdict }: { verdict: Verdict }) {
  return (
    <svg className={`stamp ${verdict}`} viewBox="0 0 20 20" role="img" aria-label={verdict}>
      {verdict === "met" && <path d="M3.5 10.5 8 15 17 4.5" />}
      {verdict === "partly" && (
        <>
          <circle cx="10" cy="10" r="6.2" />
          <path className="half" d="M10 3.8a6.2 6.2 0 0 0 0 12.4z" />
        </>
      )}
      {verdict === "missed" && <path d="M1.5 13.5c4-4.5 6 1.5 10-2.5 2.5-2.5 4-2.5 7-4" />}
    </svg>
  );
}
