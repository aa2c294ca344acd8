import { useRef, useState } from "react";
import { ToggleButton, ToggleButtonGroup } from "react-bootstrap";
import { useNavigate } from "react-router";
import { useWork } from "../../authoring/Authoring";
import type { Edit, Look } from "../../authoring/calls";
import { Aside, Told, workKeys } from "../../authoring/Told";
import { useKept } from "../../authoring/useKept";
import { atStage, stageKey, Stages, useStage } from "../../design/Stages";
import type { Key } from "../../design/keys";
import { View } from "../../design/View";
import { count, inWords, marks } from "../../design/words";
import type { Direction } from "../../weave/geometry";
import { Weave, type Cell } from "../../weave/Weave";
import { AtCursor } from "./AtCursor";
import { behind, follow, moved, placeAt, portAt, prefixesOf, selected, type Place } from "./cursor";
import { Field } from "./Field";
import { Findings } from "./Findings";
import { folded } from "./folding";
import { Form, type FormKind } from "./forms";
import { PortsPanel } from "./PortsPanel";
import { RoutesPanel } from "./RoutesPanel";
import { SheetPanel } from "./SheetPanel";
import { TablesPanel } from "./TablesPanel";
import "./lab.css";

const PANELS = ["sheet", "tables", "ports", "routes"] as const;
type Panel = (typeof PANELS)[number];
const TYPED = "0123456789.:".split("");

/** A lab: its weave is the editor; beside it the sheet, the ports and the routes of the device at the cursor. */
export function LabView() {
  const { look } = useWork();
  if (look === null) return <Unread />;
  return <Loaded look={look} />;
}

/** What is shown as long as no text of the lab could be read. */
function Unread() {
  const { work, state } = useWork();
  return (
    <View lab={{ slug: work.slug, title: work.slug }} title="The lab's text cannot be read">
      <Told />
      <p>{state.unread[0]?.message} Mend it in the text.</p>
    </View>
  );
}

function Loaded({ look: all }: { look: Look }) {
  const navigate = useNavigate();
  const { work, state } = useWork();
  const [, setStage] = useStage();
  const [fold, setFold] = useKept(`${work.slug} folded`, all.weave.columns.length > 60);
  const look = fold ? folded(all) : all;
  const { weave, stage, stages } = look;
  const [cell, setCell] = useKept<Cell>(`${work.slug} cell`, {
    column: 0,
    row: weave.rows.length > 0 ? 0 : -1,
  });
  const [drawn, setDrawn] = useState(weave);
  const [panel, setPanel] = useKept<Panel>(`${work.slug} panel`, "sheet");
  const [side, setSide] = useKept<"given" | "answer">(`${work.slug} side`, "answer");
  const [typing, setTyping] = useState<string | null>(null);
  const [form, setForm] = useState<FormKind | null>(null);
  const copied = useRef<string[]>([]);
  const [anchor, setAnchor] = useState<Cell | undefined>(undefined);
  const [notes, setNotes] = useKept(`${work.slug} notes`, false);
  const [zoom, setZoom] = useKept(`${work.slug} zoom`, 1);
  if (drawn !== weave) {
    // the chart is drawn anew: the cursor stays at its device and network
    setDrawn(weave);
    setCell(follow(drawn, weave, cell));
  }
  const place = placeAt(weave, cell);
  const device = deviceOf(place) ?? deviceOf(placeAt(weave, { column: 0, row: -1 })) ?? "";
  const row =
    place?.kind === "network" || place?.kind === "knot" || place?.kind === "crossing" ? place.row : null;
  const edit = (...edits: Edit[]) => work.edit(...edits);
  const chosen = selected(weave, anchor, cell);
  const go = (to: Cell) => {
    setAnchor(undefined);
    setCell(to);
    setTyping(null);
    work.calm();
  };
  const move = (way: Direction) => () => go(moved(weave, cell, way));
  const reach = (way: Direction) => () => {
    setAnchor(anchor ?? cell);
    setCell(moved(weave, cell, way));
  };
  /** Writes addresses into the knots that are selected, one after another; an empty one takes them away. */
  const writeAll = (typed: (n: number) => string, knots = chosen) => {
    setTyping(null);
    const edits = knots.flatMap((knot, n): Edit[] => {
      const own = weave.columns[knot.column];
      const address = typed(n);
      if (own === undefined || own.kind === "switch" || (address === "" && knot.address === null)) return [];
      const port = knot.ports.at(-1) ?? "";
      const prefixes = prefixesOf(weave, knot.row);
      return [{ do: "set-address", device: own.device, port, typed: address, prefixes, side }];
    });
    if (edits.length > 0) void edit(...edits);
  };
  const write = (typed: string) => {
    if (chosen.length > 1) {
      writeAll((n) => behind(typed, n));
      return;
    }
    const at = portAt(place);
    setTyping(null);
    if (at === undefined) return;
    const prefixes = place?.kind === "knot" ? prefixesOf(weave, place.row) : [];
    const whole = place?.kind === "loopback" && /^[\d.]+$/.test(typed) ? `${typed}/32` : typed;
    void edit({ do: "set-address", ...at, typed: whole, prefixes, side });
  };
  const open = (at: Place | undefined = place) => {
    if (at?.kind === "crossing") void edit({ do: "join", device: at.node, row: at.row, side });
    else if (at?.kind === "device") setForm({ kind: "rename-device", device: at.device });
    else if (at?.kind === "network") setForm({ kind: "network", row: at.row });
    else setTyping(at?.kind === "loopback" && at.address !== "" ? at.address : "");
  };
  const take = () => {
    if (chosen.length > 1) writeAll(() => "");
    else if (place?.kind === "device") void edit({ do: "remove-device", device: place.device });
    else if (place?.kind === "loopback")
      void edit({ do: "set-address", ...place, port: place.name, typed: "" });
    else if (place?.kind === "network") void edit({ do: "name-network", row: place.row, name: "" });
    else if (place?.kind === "knot" && place.knot.address !== null) write("");
    else if (place?.kind === "knot")
      void edit({ do: "unlink", end: `${place.device}:${place.knot.ports.at(-1) ?? ""}` });
  };
  const fill = () => {
    if (row === null) return;
    if (weave.rows[row]?.prefix === "") setForm({ kind: "network", row });
    else void edit({ do: "fill-network", row, side });
  };
  const gateways = () => row !== null && void edit({ do: "set-gateways", row, side });
  const paste = () => {
    const [first] = copied.current;
    if (first === undefined) return;
    if (place?.kind === "crossing") open();
    else if (copied.current.length === 1) write(first);
    else {
      const ahead = weave.knots.filter(
        (k) => k.row > cell.row || (k.row === cell.row && k.column >= cell.column),
      );
      writeAll((n) => copied.current[n] ?? "", ahead.slice(0, copied.current.length));
    }
  };
  const copy = () => {
    copied.current =
      place?.kind === "loopback"
        ? [place.address]
        : chosen.flatMap((k) => (k.address === null ? [] : [k.address]));
  };
  const show = (next: Panel) => () => setPanel(next);
  const to = (path: string) => () => void navigate(atStage(`/labs/${work.slug}${path}`, stage));
  const turn = (next: string) => setStage(next);
  const keys: Key[] = [
    { key: "← ↑ ↓ →", on: ["ArrowLeft"], does: "move", run: move("left") },
    { key: "Enter", does: place?.kind === "crossing" ? "join here" : "change", run: () => open() },
    { key: "d", does: "new device", run: () => setForm({ kind: "device" }) },
    { key: "c", does: "cable", run: () => setForm({ kind: "cable", device }) },
    { key: "n", does: "new network", run: () => setForm({ kind: "network", row: null }) },
    { key: "f", does: "fill addresses", run: fill },
    { key: "g", does: "gateways", run: gateways },
    { key: "r", does: "routes needed", run: show("routes") },
    ...workKeys(work),
    { key: "Del", on: ["Delete", "Backspace"], does: "take away", run: take, more: true },
    { key: "F2", does: "rename", run: () => open(), more: true },
    { key: "o", does: "ports and cables", run: show("ports"), more: true },
    { key: "s", does: "sheet", run: show("sheet"), more: true },
    { key: "b", does: "tables", run: show("tables"), more: true },
    { key: "e", does: "edit the sheet", run: to(`/sheets/${side}/${device}`), more: true },
    {
      key: "x",
      does: "write into given or model answer",
      run: () => setSide(side === "given" ? "answer" : "given"),
      more: true,
    },
    { key: "/", does: "find", run: () => setForm({ kind: "find" }), more: true },
    { key: "z", does: fold ? "show all hosts" : "fold hosts", run: () => setFold(!fold), more: true },
    {
      key: "Ctrl+C",
      on: ["Ctrl+c"],
      does: "copy",
      run: copy,
      more: true,
    },
    { key: "Ctrl+V", on: ["Ctrl+v"], does: "paste", run: paste, more: true },
    { key: "[ ]", on: ["["], does: "column to the left or right", run: shift(-1), more: true },
    { key: "]", does: "", hidden: true, run: shift(1) },
    {
      key: "w",
      does: "columns as they are worked out",
      run: () => void edit({ do: "put", place: "order", value: "" }),
      more: true,
    },
    { key: "k", does: notes ? "without notes" : "notes on devices", run: () => setNotes(!notes), more: true },
    {
      key: "+ −",
      on: ["+"],
      does: "larger or smaller",
      run: () => setZoom(Math.min(zoom * 1.25, 2.5)),
      more: true,
    },
    { key: "-", does: "", hidden: true, run: () => setZoom(Math.max(zoom / 1.25, 0.5)) },
    { key: "Shift+arrows", on: [], does: "select several; type to fill them, one after another", more: true },
    ...(["Left", "Right", "Up", "Down"] as const).map((way) => ({
      key: `Shift+Arrow${way}`,
      does: "",
      hidden: true,
      run: reach(way.toLowerCase() as Direction),
    })),
    { key: "a", does: "address plan", run: to("/plan"), more: true },
    { key: "i", does: "pings", run: to("/pings"), more: true },
    { key: "m", does: "scheme", run: to("/scheme"), more: true },
    { key: "v", does: "versions", run: to("/versions"), more: true },
    { key: "p", does: "papers", run: to("/papers"), more: true },
    ...stageKey(stages, stage, turn),
    ...(["Right", "Up", "Down"] as const).map((way) => ({
      key: `Arrow${way}`,
      does: "",
      hidden: true,
      run: move(way.toLowerCase() as Direction),
    })),
    ...TYPED.map((key) => ({
      key,
      does: "",
      hidden: true,
      run: () => portAt(place) !== undefined && setTyping(key),
    })),
  ];

  function shift(by: number) {
    return () => void edit({ do: "move-column", device, by });
  }

  return (
    <View
      lab={{ slug: work.slug, title: look.title, stage }}
      title={look.title}
      about={`${count(all.devices.length, "device")}, ${count(weave.rows.length, "network")}, ${marks(state.check?.out_of ?? 0)} marks. ${linksSaid(weave)}`}
      aside={<Aside />}
      keys={keys}
      side={
        <>
          <Told />
          {form !== null && (
            <Form
              key={JSON.stringify(form)}
              form={form}
              look={look}
              side={side}
              onEdit={edit}
              onFound={go}
              onClose={() => setForm(null)}
            />
          )}
          <section>
            <div className="d-flex justify-content-between align-items-center mb-2">
              <h2>{device}</h2>
              <ToggleButtonGroup type="radio" name="panel" size="sm" value={panel} onChange={setPanel}>
                {PANELS.map((one) => (
                  <ToggleButton key={one} id={`panel-${one}`} value={one} variant="light">
                    {one}
                  </ToggleButton>
                ))}
              </ToggleButtonGroup>
            </div>
            {panel === "sheet" && <SheetPanel look={look} device={device} side={side} onSide={setSide} />}
            {panel === "tables" && <TablesPanel look={look} device={device} side={side} onEdit={edit} />}
            {panel === "ports" && <PortsPanel look={look} device={device} onEdit={edit} />}
            {panel === "routes" && <RoutesPanel device={device} side={side} onEdit={edit} />}
          </section>
          <Findings />
        </>
      }
    >
      <Stages stages={stages} stage={stage} onTurn={turn} />
      <p className="acts">
        {(
          [
            ["New device", () => setForm({ kind: "device" })],
            ["New cable", () => setForm({ kind: "cable", device })],
            ["New network", () => setForm({ kind: "network", row: null })],
            ["Find", () => setForm({ kind: "find" })],
            ["Undo", work.undo],
            ["Redo", work.redo],
          ] as const
        ).map(([label, run]) => (
          <button key={label} type="button" className="mend" onClick={run}>
            {label}
          </button>
        ))}
      </p>
      <Weave
        weave={weave}
        selected={place?.kind === "knot" ? place.knot : undefined}
        device={device}
        cell={cell}
        onCell={go}
        onOpen={(at) => open(placeAt(weave, at))}
        anchor={anchor}
        notes={notes}
        zoom={zoom}
        field={
          typing === null ? undefined : (
            <Field
              label={`Address of ${portAt(place)?.device ?? ""} ${portAt(place)?.port ?? ""}`}
              initial={typing}
              onDone={(typed, way) => {
                write(typed);
                if (way) setCell(moved(weave, cell, way));
              }}
              onCancel={() => setTyping(null)}
            />
          )
        }
      />
      <AtCursor
        look={look}
        place={place}
        side={side}
        onJoin={() => open()}
        onFill={fill}
        onGateways={gateways}
        onTake={take}
      />
    </View>
  );
}

const deviceOf = (place: Place | undefined) => (place && "device" in place ? place.device : undefined);

function linksSaid(weave: Look["weave"]): string {
  const down = weave.down.length;
  if (weave.links === 0) return "No links yet.";
  if (down > 3) return `${inWords(down, true)} links are down.`;
  if (down > 0)
    return `${inWords(down, true)} ${down === 1 ? "link is" : "links are"} down: ${weave.down.join(", ")}.`;
  return weave.links === 1 ? "Its link is up." : `All ${weave.links} links are up.`;
}
