import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useMarkAgain } from "../../api/queries";
import { View } from "../../design/View";
import { moment } from "../../design/words";
import { SheetText } from "../../sheet/SheetText";
import { Attempts, Uncounted } from "./Attempts";
import { upDown } from "../../design/keys";

/** A paper that is being marked, or could not be: its sheets as they were handed in. */
export function UnmarkedPaper({ paper }: { paper: Schemas["PaperView"] }) {
  const navigate = useNavigate();
  const again = useMarkAgain(paper.id);
  const written = paper.sheets.filter((sheet) => sheet.text !== null);
  const [page, setPage] = useState(written[0]?.device ?? "");
  const sheet = written.find((own) => own.device === page);
  const turn = (by: number) => () => {
    const at = written.findIndex((own) => own.device === page);
    setPage(written[(at + by + written.length) % written.length]?.device ?? page);
  };
  return (
    <View
      lab={{ slug: paper.slug, title: paper.lab }}
      ofPapers
      title={paper.learner}
      about={`${paper.stage_title === "" ? "" : `${paper.stage_title}; `}handed in ${moment(paper.received_at)}, not marked yet`}
      keys={[
        ...upDown("sheets", (step) => turn(step)()),
        {
          key: "Esc",
          on: ["Escape"],
          does: "all papers",
          run: () => void navigate(`/labs/${paper.slug}/papers${paper.stage && `?stage=${paper.stage}`}`),
        },
      ]}
      side={
        <>
          <section role="status">
            {paper.failure === null ? (
              <>
                <h2>Being marked …</h2>
                <p className="soft">The marks appear here as soon as they are there.</p>
              </>
            ) : (
              <>
                <h2>It could not be marked</h2>
                <p>{paper.failure}</p>
                <p className="soft">
                  The paper is stored as it was handed in; the other papers are not held up.
                </p>
                <button
                  type="button"
                  className="as-link"
                  disabled={again.isPending}
                  onClick={() => again.mutate()}
                >
                  Try again
                </button>
              </>
            )}
          </section>
          <Attempts paper={paper} />
        </>
      }
    >
      <Uncounted paper={paper} />
      <div className="paper-desk">
        <nav aria-label="Sheets of the paper" className="pages">
          {written.map(({ device }) => (
            <button key={device} type="button" aria-current={device === page} onClick={() => setPage(device)}>
              <span>{device}</span>
            </button>
          ))}
        </nav>
        {sheet?.text != null && <SheetText form={sheet.form} text={sheet.text} />}
      </div>
    </View>
  );
}
