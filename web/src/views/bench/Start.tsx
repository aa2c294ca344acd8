import { useEffect } from "react";
import { useSearchParams } from "react-router";
import { answered, client } from "../../api/client";
import { useBenches, usePapers } from "../../api/queries";
import { startOf, type Bench, type BenchState } from "../../bench/Bench";

interface Props {
  slug: string;
  stage: string;
  bench: Bench;
  own: BenchState;
}

/** What the bench starts from: what is given, the model answer, a paper, or a bench that was kept. */
export function Start({ slug, stage, bench, own }: Props) {
  const [search, setSearch] = useSearchParams();
  const papers = usePapers(slug, { stage, sitting: 0 });
  const benches = useBenches(slug);
  const ofStage = benches.data?.benches.filter((kept) => kept.stage === stage) ?? [];
  const gone = own.start.startsWith("bench ") && !ofStage.some((kept) => own.start === startOf(kept.number));
  const named = Number(search.get("bench") ?? 0);
  useEffect(() => {
    // an address that names a bench puts it on; what was typed since stays where it is that bench already
    if (named > 0 && bench.state.start !== startOf(named)) void bench.open(named);
  }, [bench, named]);
  const start = async (from: string) => {
    const next = new URLSearchParams(search);
    if (from.startsWith("bench ")) next.set("bench", from.slice(6));
    else next.delete("bench");
    setSearch(next, { replace: true });
    if (from.startsWith("bench ")) return bench.open(Number(from.slice(6)));
    if (!from.startsWith("paper ")) return bench.begin(from);
    const paper = Number(from.slice(6));
    const found = await answered(client.GET("/api/papers/{paper}", { params: { path: { paper } } }));
    return bench.begin(from, null, Object.fromEntries(found.sheets.map((s) => [s.device, s.text ?? ""])));
  };
  return (
    <label className="bench-start">
      starting from{" "}
      <select value={own.start} onChange={(event) => void start(event.target.value)}>
        <option value="given">what is given</option>
        <option value="answer">the model answer</option>
        {ofStage.map((kept) => (
          <option key={kept.number} value={startOf(kept.number)}>
            {kept.name}
          </option>
        ))}
        {gone && <option value={own.start}>a bench that is not kept any more</option>}
        {papers.data?.papers.map((paper) => (
          <option key={paper.id} value={`paper ${paper.id}`}>
            the paper of {paper.learner}
          </option>
        ))}
      </select>
    </label>
  );
}
