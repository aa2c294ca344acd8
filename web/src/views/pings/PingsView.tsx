import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useWork } from "../../authoring/Authoring";
import { pairsOf, type Edit, type Look } from "../../authoring/calls";
import { Aside, Told, workKeys } from "../../authoring/Told";
import { useKept } from "../../authoring/useKept";
import { atStage, stageKey, Stages, useStage } from "../../design/Stages";
import type { Key } from "../../design/keys";
import { View, Waiting } from "../../design/View";
import { count } from "../../design/words";
import { Asked } from "./Asked";
import { Grid, type GridCell } from "./Grid";
import { List } from "./List";
import { NewAsked } from "./NewAsked";
import "./pings.css";

const OUTCOMES = ["reply", "no-reply", "timeout", "unreachable", "no-route"];

/** What the lab expects: everybody to everybody as a grid, and the list of pings and service checks as they run. */
export function PingsView() {
  const { look } = useWork();
  return look === null ? <Waiting error={null} /> : <Loaded look={look} />;
}

function Loaded({ look }: { look: Look }) {
  const navigate = useNavigate();
  const { work, state } = useWork();
  const { text, stage } = state;
  const [, setStage] = useStage();
  const [listed, setListed] = useKept(`${work.slug} listed`, false);
  const [cell, setCell] = useKept<GridCell>(`${work.slug} pair`, { source: 0, target: 1 });
  const [line, setLine] = useKept(`${work.slug} ping`, 0);
  const [adding, setAdding] = useState(false);
  const [pairs, setPairs] = useState<Schemas["PairsView"] | null>(null);
  useEffect(() => {
    let stale = false;
    pairsOf({ text, stage, sheet: null }).then(
      (found) => !stale && setPairs(found),
      () => undefined, // what cannot be read is told elsewhere
    );
    return () => {
      stale = true;
    };
  }, [text, stage]);
  const { pings, services } = look;
  const rows = [...pings, ...services];
  const failing = rows.filter((row) => row.as_expected === false).length;
  const number = (from: string, to: string) =>
    pings.findIndex((p) => p.from === from && p.to === to && p.source === null);
  const from = pairs?.sources[cell.source] ?? "";
  const to = pairs?.targets[cell.target] ?? "";
  const result = pairs?.rows.find((row) => row.from === from && row.to === to);
  const at = listed ? line : number(from, to);
  const chosen = rows[at];
  const address = (n: number) => atStage(`/labs/${work.slug}/pings/${n}`, look.stage);
  const expect = (asked: { from: string; to: string; expect: string }[]): Edit => ({
    do: "expect",
    pings: asked,
  });
  const forget = () => {
    if (chosen === undefined) return;
    const [of, n]: ["pings" | "services", number] =
      at < pings.length ? ["pings", at] : ["services", at - pings.length];
    void work.edit({ do: "forget", listed: of, numbers: [n] });
    setLine(Math.max(0, Math.min(line, rows.length - 2)));
  };
  const take = () => {
    if (listed && chosen && "to" in chosen) void work.edit(valueOf(look, at, "expect", chosen.outcome));
    else if (result && at >= 0 && chosen?.expect === result.outcome) forget();
    else if (result) void work.edit(expect([{ from, to, expect: result.outcome }]));
  };
  const takeAll = () => {
    const missing = (pairs?.rows ?? []).filter((row) => number(row.from, row.to) < 0);
    if (missing.length > 0)
      void work.edit(expect(missing.map((row) => ({ from: row.from, to: row.to, expect: row.outcome }))));
  };
  const turnOutcome = () => {
    if (chosen === undefined) {
      if (result) void work.edit(expect([{ from, to, expect: result.outcome }]));
      return;
    }
    const words = at < pings.length ? OUTCOMES : ["answer", "no-answer"];
    const next = words[(words.indexOf(chosen.expect ?? "") + 1) % words.length] ?? "reply";
    void work.edit(valueOf(look, at, "expect", next));
  };
  const open = () =>
    void navigate(
      at >= 0 && chosen
        ? address(at + 1)
        : `${atStage(`/labs/${work.slug}/journey`, look.stage)}${look.stage === "" ? "?" : "&"}from=${from}&to=${to}`,
    );
  const move = (down: number, right: number) => () => {
    if (listed) setLine(Math.min(Math.max(line + down, 0), Math.max(rows.length - 1, 0)));
    else if (pairs)
      setCell({
        source: Math.min(Math.max(cell.source + down, 0), pairs.sources.length - 1),
        target: Math.min(Math.max(cell.target + right, 0), pairs.targets.length - 1),
      });
  };
  const shift = (by: number) => () => {
    if (!listed || chosen === undefined) return;
    const of = at < pings.length ? "pings" : "services";
    const n = of === "pings" ? at : at - pings.length;
    const length = of === "pings" ? pings.length : services.length;
    if (n + by < 0 || n + by >= length) return;
    void work.edit({ do: "move-asked", listed: of, number: n, to: n + by });
    setLine(line + by);
  };
  const keys: Key[] = [
    { key: "↑ ↓ ← →", on: ["ArrowUp"], does: "move", run: move(-1, 0) },
    { key: "ArrowDown", does: "", hidden: true, run: move(1, 0) },
    { key: "ArrowLeft", does: "", hidden: true, run: move(0, -1) },
    { key: "ArrowRight", does: "", hidden: true, run: move(0, 1) },
    { key: "Space", on: [" "], does: "expect what it comes to", run: take },
    ...(listed ? [] : [{ key: "Shift+A", on: ["A"], does: "expect all of it", run: takeAll }]),
    { key: "x", does: "another outcome", run: turnOutcome },
    { key: "Enter", does: "its journey", run: open },
    { key: "Del", on: ["Delete"], does: "expect nothing", run: forget },
    { key: "n", does: "new ping or check", run: () => setAdding(true) },
    { key: "v", does: listed ? "as a grid" : "as a list", run: () => setListed(!listed) },
    {
      key: "h",
      does: "show it to learners, or not",
      run: () => chosen && void work.edit(valueOf(look, at, "shown", look.seen[at] ? "" : "true")),
      more: true,
    },
    { key: "[ ]", on: ["["], does: "run it earlier or later", run: shift(-1), more: true },
    { key: "]", does: "", hidden: true, run: shift(1) },
    ...workKeys(work),
    {
      key: "l",
      does: "the weave",
      run: () => void navigate(atStage(`/labs/${work.slug}`, look.stage)),
      more: true,
    },
    ...stageKey(look.stages, look.stage, setStage),
  ];
  const all =
    services.length === 0
      ? count(pings.length, "ping")
      : `${count(pings.length, "ping")} and ${count(services.length, "service check")}`;
  return (
    <View
      lab={{ slug: work.slug, title: look.title, stage: look.stage }}
      title={
        rows.length === 0
          ? "Nothing is expected yet"
          : failing === 0
            ? `All ${all} hold on the model answer`
            : `${failing} of ${all} do not hold on the model answer`
      }
      about={
        listed
          ? "In this order, each with what is expected and what the model answer makes of it."
          : "Who reaches whom on the model answer: rows ask, columns answer. What is expected is set in bold."
      }
      aside={<Aside />}
      keys={keys}
      side={
        <>
          <Told />
          {adding && <NewAsked look={look} onEdit={work.edit} onClose={() => setAdding(false)} />}
          <Asked
            look={look}
            at={at}
            row={chosen ?? result}
            onTake={take}
            onOpen={open}
            onForget={forget}
            onPut={(key, value) => void work.edit(valueOf(look, at, key, value))}
          />
        </>
      }
    >
      <Stages stages={look.stages} stage={look.stage} onTurn={setStage} />
      {listed ? (
        <List look={look} at={line} onAt={setLine} link={address} />
      ) : pairs === null ? (
        <p className="soft">One moment …</p>
      ) : (
        <Grid pairs={pairs} pings={pings} cell={cell} onCell={setCell} onOpen={open} />
      )}
    </View>
  );
}

/** Puts a value into the entry of a ping or check. */
function valueOf(look: Look, at: number, key: string, value: string): Edit {
  const stage = look.stages.findIndex((own) => own.id === look.stage);
  const before = stage < 0 ? "" : `stages[${stage}].`;
  const of = at < look.pings.length ? `pings[${at}]` : `services[${at - look.pings.length}]`;
  return { do: "put", place: `${before}${of}.${key}`, value };
}
