import { useState, type SyntheticEvent } from "react";
import { Form } from "react-bootstrap";
import type { Schemas } from "../../api/client";
import { useComments } from "../../api/sittings";
import { moment } from "../../design/words";

/** What the instructor wrote beside the paper, and more to write; it stays when the paper is marked anew. */
export function Comments({ paper }: { paper: Schemas["PaperView"] }) {
  const { add, remove } = useComments(paper.id);
  const [text, setText] = useState("");
  const send = (event: SyntheticEvent) => {
    event.preventDefault();
    add.mutate({ text, criterion: "", device: "", line: null }, { onSuccess: () => setText("") });
  };
  return (
    <section className="mt-4">
      <h2>Comments</h2>
      {paper.comments.map((own) => (
        <p key={own.id} className="mb-2">
          {own.text}{" "}
          <span className="soft">
            {whereabouts(own)}
            {moment(own.made_at)}{" "}
            <button
              type="button"
              className="as-link"
              aria-label={`Take back the comment ${own.text.slice(0, 30)}`}
              onClick={() => remove.mutate(own.id)}
            >
              take back
            </button>
          </span>
        </p>
      ))}
      <Form onSubmit={send}>
        <Form.Control
          as="textarea"
          rows={2}
          required
          maxLength={2000}
          aria-label="A comment for the learner"
          placeholder="a comment for the learner"
          value={text}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) send(event);
          }}
        />
        <button type="submit" className="as-link mt-1" disabled={add.isPending || text.trim() === ""}>
          Write it
        </button>
        {add.error && <span className="pencil"> {add.error.message}</span>}
      </Form>
    </section>
  );
}

const whereabouts = ({ criterion, device, line }: Schemas["CommentShape"]) => {
  const place =
    criterion !== "" ? criterion.replaceAll(":", " ") : line === null ? device : `${device} line ${line}`;
  return place === "" ? "" : `${place}, `;
};
