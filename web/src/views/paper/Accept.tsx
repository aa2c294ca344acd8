import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Link } from "react-router";
import { answered, client, type Schemas } from "../../api/client";
import { inWords, type Criterion, type MarkedPaper } from "./types";

/** The learner's lines that a criterion was compared with, or the answer to a question. */
function linesOf(own: Criterion, paper: MarkedPaper): string {
  if (own.key === "value") return own.found;
  const sheet = paper.sheets.find((s) => s.device === own.device);
  const lines = (sheet?.text ?? "").split("\n");
  const proof = own.lines.filter(({ file }) => file === sheet?.file);
  return proof.map(({ line }) => (lines[line - 1] ?? "").trim()).join("\n");
}

/** Lets what the learner wrote count for everybody: the lab gets a new version that accepts it. */
export function Accept({ own, paper }: { own: Criterion; paper: MarkedPaper }) {
  const cache = useQueryClient();
  const accept = useMutation({
    mutationFn: (body: Schemas["Accepting"]) =>
      answered(client.POST("/api/papers/{paper}/accept", { params: { path: { paper: paper.id } }, body })),
    onSuccess: () => cache.invalidateQueries(),
  });
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const [reason, setReason] = useState("");
  if (own.fraction === 1 || ["ping", "check", "manual"].includes(own.key)) return null;
  if (accept.data)
    return (
      <p role="status" className="noted">
        Version {accept.data.version} of the lab accepts it.{" "}
        {accept.data.sitting === null ? (
          "All papers are being marked with it."
        ) : (
          <Link to={`/sittings/${accept.data.sitting}`}>See what that changes for whom</Link>
        )}
      </p>
    );
  if (!open)
    return (
      <button
        type="button"
        className="as-link"
        aria-label={`Accept for everybody: ${inWords(own)}`}
        onClick={() => {
          setText(linesOf(own, paper));
          setOpen(true);
        }}
      >
        accept for everybody
      </button>
    );
  return (
    <Form
      className="deciding accepting"
      onSubmit={(event) => {
        event.preventDefault();
        accept.mutate({ criterion: own.id, text, reason });
      }}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === "Escape") setOpen(false);
      }}
    >
      <Form.Control
        as="textarea"
        rows={Math.max(1, text.split("\n").length)}
        required
        autoFocus
        className="mono"
        aria-label={`Lines that are to count for ${inWords(own)}`}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <span>is right, too, because</span>
      <Form.Control
        required
        maxLength={500}
        aria-label="Why it is right"
        value={reason}
        onChange={(event) => setReason(event.target.value)}
      />
      {Object.keys(paper.drawn).length > 0 && (
        <p className="soft">
          Numbers of the learner’s own are written {"${…}"}:{" "}
          {Object.entries(paper.drawn)
            .map(([name, value]) => `${value} is \${${name}}`)
            .join(", ")}
          .
        </p>
      )}
      <Button type="submit" variant="primary" disabled={accept.isPending}>
        Accept for everybody
      </Button>
      <button type="button" className="as-link" onClick={() => setOpen(false)}>
        leave it
      </button>
      {accept.error && <p className="pencil">{accept.error.message}</p>}
    </Form>
  );
}
