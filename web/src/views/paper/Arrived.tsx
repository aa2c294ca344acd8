import { useQuery } from "@tanstack/react-query";
import { answered, client, type Schemas } from "../../api/client";
import { moment } from "../../design/words";

/** What the paper came in: the receipt, with the learner's own numbers where there are some. */
export function Arrived({ paper }: { paper: Schemas["PaperView"] }) {
  const number = paper.arrival ?? 0;
  const found = useQuery({
    queryKey: ["arrival", number],
    queryFn: () => answered(client.GET("/api/arrivals/{number}", { params: { path: { number } } })),
    enabled: number > 0,
    staleTime: Infinity,
  });
  const numbers = Object.entries(paper.drawn);
  if (found.data === undefined && numbers.length === 0) return null;
  return (
    <section className="mt-4">
      <h2>How it came</h2>
      {numbers.length > 0 && (
        <p className="mono">{numbers.map(([name, value]) => `${name} ${value}`).join(", ")}</p>
      )}
      {found.data && (
        <>
          <p className="mb-1">
            Receipt {found.data.number}, by {found.data.way}, {moment(found.data.received_at)}
          </p>
          {found.data.files.slice(0, 4).map((file) => (
            <p key={file.name} className="soft mb-1" title={`SHA-256 ${file.sha256}`}>
              {file.name}, SHA-256 <span className="mono">{file.sha256.slice(0, 12)}…</span>
            </p>
          ))}
        </>
      )}
    </section>
  );
}
