import { useState, type SyntheticEvent } from "react";
import { Button, Form } from "react-bootstrap";
import { useSearchParams } from "react-router";
import { useQueryClient } from "@tanstack/react-query";
import { client } from "../../api/client";
import { useBenches } from "../../api/queries";
import { startOf, type Bench, type BenchState } from "../../bench/Bench";
import { keepFile } from "../../bench/files";

/** Keeps the bench under a name and an address of its own, or as a file. */
export function Keep({ slug, bench, own }: { slug: string; bench: Bench; own: BenchState }) {
  const [search, setSearch] = useSearchParams();
  const benches = useBenches(slug);
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [said, setSaid] = useState("");
  const on = benches.data?.benches.find((kept) => own.start === startOf(kept.number));
  const tell = (error: unknown) => setSaid(error instanceof Error ? error.message : "It could not be kept.");
  const point = (number: number | null) => {
    const next = new URLSearchParams(search);
    if (number === null) next.delete("bench");
    else next.set("bench", String(number));
    setSearch(next, { replace: true });
    return queries.invalidateQueries({ queryKey: ["benches", slug] });
  };
  const keep = async (event: SyntheticEvent) => {
    event.preventDefault();
    if (name.trim() === "") return;
    try {
      await point(await bench.keep(name.trim()));
      setName("");
      setSaid("Kept; the address of this page leads to it.");
    } catch (error) {
      tell(error);
    }
  };
  const remove = async (number: number) => {
    const path = { slug, number };
    await client.DELETE("/api/labs/{slug}/benches/{number}", { params: { path } });
    await point(null);
    setSaid("");
  };
  const file = (form: "sheets" | "namespaces" | "packets") => () =>
    void keepFile(slug, bench.body(), form).then(() => setSaid(""), tell);
  return (
    <section>
      <h2>Keep this bench</h2>
      <Form className="d-flex gap-2" onSubmit={(event) => void keep(event)}>
        <Form.Control
          size="sm"
          aria-label="A name to keep this bench under"
          placeholder="a name for it"
          maxLength={80}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <Button size="sm" type="submit" variant="light">
          Keep
        </Button>
      </Form>
      {said !== "" && <p role="status">{said}</p>}
      {on !== undefined && (
        <p className="port-acts">
          <span>Begun from {on.name}.</span>
          <button type="button" className="place" onClick={() => void bench.open(on.number)}>
            as it was kept
          </button>
          <button type="button" className="place" onClick={() => void remove(on.number)}>
            remove it
          </button>
        </p>
      )}
      <p className="port-acts mt-2">
        <span>As a file:</span>
        <button type="button" className="place" onClick={file("sheets")}>
          sheets
        </button>
        <button type="button" className="place" onClick={file("namespaces")}>
          script for Linux
        </button>
        {own.look !== null && own.look.rows.length > 0 && (
          <button type="button" className="place" onClick={file("packets")}>
            packets
          </button>
        )}
      </p>
    </section>
  );
}
