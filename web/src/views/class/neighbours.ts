/** The order in which papers were last shown in a list, so that previous and next follow it. */
let shown: number[] = [];

export const keepOrder = (papers: number[]) => {
  shown = papers;
};

/** The papers before and behind one in the order in which they were shown; null where it was not shown. */
export function neighboursOf(paper: number) {
  const at = shown.indexOf(paper);
  return at < 0
    ? null
    : { number: at + 1, of: shown.length, previous: shown[at - 1] ?? null, next: shown[at + 1] ?? null };
}
