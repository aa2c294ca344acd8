import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type SyntheticEvent } from "react";
import { Form } from "react-bootstrap";
import { Link, useNavigate, useParams } from "react-router";
import { answered, client, type Schemas } from "../../api/client";
import { atOccasion, occasionOf } from "../../api/occasion";
import { useOccasion } from "../../design/occasion";
import { View, Waiting } from "../../design/View";
import { count, marks } from "../../design/words";
import "./byhand.css";

type Question = Schemas["QuestionByHand"];
type Given = Schemas["GivenAnswer"];

/** What is marked by hand: one question after the other, over all papers. */
export function ByHandView() {
  const { slug = "" } = useParams();
  const occasion = useOccasion();
  const found = useQuery({
    queryKey: ["by-hand", slug, occasion],
    queryFn: () =>
      answered(client.GET("/api/labs/{slug}/by-hand", { params: { path: { slug }, query: occasion } })),
  });
  if (found.data === undefined) return <Waiting error={found.error} />;
  return <Loaded view={found.data} />;
}

function Loaded({ view }: { view: Schemas["ByHandView"] }) {
  const navigate = useNavigate();
  const [at, setAt] = useState(0);
  const { slug, lab, stage, sitting, questions } = view;
  const occasion = occasionOf(view);
  const question = questions[Math.min(at, questions.length - 1)];
  const left = (own: Question) => own.given.filter((given) => !given.decided).length;
  const turn = (by: number) => () => setAt(Math.min(Math.max(0, at + by), questions.length - 1));
  return (
    <View
      lab={{ slug, title: lab, stage, sitting }}
      ofPapers
      title={
        question === undefined
          ? "Nothing is marked by hand here"
          : left(question) === 0
            ? "This question is marked"
            : `${count(left(question), "paper")} left for this question`
      }
      about={
        question === undefined
          ? "The scheme has no criteria that are marked by hand, and every answer to a question is the expected one."
          : `Question ${at + 1} of ${questions.length}, ${marks(question.marks)} ${question.marks === 1 ? "mark" : "marks"}. Type the marks, and press Enter for the next paper.`
      }
      keys={[
        { key: "[", does: "previous question", run: turn(-1), hidden: true },
        { key: "[ ]", on: ["]"], does: "questions", run: turn(1) },
        {
          key: "g",
          does: "the class",
          run: () => void navigate(atOccasion(`/labs/${slug}/class`, occasion)),
        },
      ]}
      side={
        questions.length === 0 ? undefined : (
          <section>
            <h2>Questions</h2>
            {questions.map((own, n) => (
              <p key={own.criterion} className="mb-1">
                <button
                  type="button"
                  className="slip"
                  aria-pressed={own === question}
                  onClick={() => setAt(n)}
                >
                  {own.asks}
                </button>{" "}
                <span className="soft">{left(own) === 0 ? "marked" : `${left(own)} left`}</span>
              </p>
            ))}
          </section>
        )
      }
    >
      {question && <Asked key={question.criterion} question={question} />}
    </View>
  );
}

function Asked({ question }: { question: Question }) {
  return (
    <>
      <p className="asked">{question.asks}</p>
      {question.required !== "" && (
        <p>
          Expected: <span className="mono">{question.required}</span>
        </p>
      )}
      <table className="table rows by-hand">
        <thead>
          <tr>
            <th scope="col">Paper</th>
            <th scope="col">Answer</th>
            <th scope="col" className="number">
              of {marks(question.marks)}
            </th>
            <th scope="col">
              <span className="visually-hidden">Whether it is decided</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {question.given.map((given, n) => (
            <Row key={given.paper} question={question} given={given} first={n === 0} />
          ))}
        </tbody>
      </table>
    </>
  );
}

interface RowProps {
  question: Question;
  given: Given;
  first: boolean;
}

function Row({ question, given, first }: RowProps) {
  const cache = useQueryClient();
  const [typed, setTyped] = useState(given.decided ? marks(given.earned) : "");
  const decide = useMutation({
    mutationFn: (earned: number) =>
      answered(
        client.POST("/api/papers/{paper}/overrules", {
          params: { path: { paper: given.paper } },
          body: { criterion: question.criterion, marks: earned, reason: "Marked by hand." },
        }),
      ),
    onSuccess: () => cache.invalidateQueries(),
  });
  const save = (event: SyntheticEvent<HTMLFormElement>) => {
    event.preventDefault();
    if (typed.trim() === "") return;
    decide.mutate(Number(typed));
    const inputs = [...document.querySelectorAll<HTMLInputElement>(".by-hand input")];
    const own = event.currentTarget.querySelector("input");
    inputs[inputs.findIndex((input) => input === own) + 1]?.select();
  };
  return (
    <tr>
      <td>
        <Link to={`/papers/${given.paper}`}>{given.learner}</Link>
      </td>
      <td className="mono">{given.answer}</td>
      <td className="number">
        <Form onSubmit={save}>
          <Form.Control
            size="sm"
            type="number"
            min={0}
            max={question.marks}
            step={0.01}
            autoFocus={first}
            aria-label={`Marks of ${given.learner}`}
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
          />
        </Form>
      </td>
      <td className={decide.error ? "pencil" : "soft"}>
        {decide.error ? decide.error.message : decide.isPending ? "…" : given.decided ? "decided" : ""}
      </td>
    </tr>
  );
}
