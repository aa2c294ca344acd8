import { answered, client, type Schemas } from "../api/client";

export type BenchLook = Schemas["BenchLook"];
export type Question = Schemas["Question"];
export type Sheets = Record<string, string>;

/** Sheets as they stood once, with how they were called. */
export interface Moment {
  label: string;
  sheets: Sheets;
}

export interface BenchState {
  sheets: Sheets;
  /** What lies below each sheet. */
  under: Sheets;
  device: string;
  asked: Question[];
  start: string;
  look: BenchLook | null;
  /** What was there before the last burst of changes, and the sheets of then. */
  before: BenchLook | null;
  beforeSheets: Sheets | null;
  /** The sheet at hand that `look` is about. */
  about: string;
  moments: Moment[];
  undone: number;
  said: string;
}

/** So long after a change the next one is another edit, in milliseconds. */
const BURST = 1500;
const MOST_UNDONE = 200;

/** A bench: sheets of one's own on a lab. It is kept by the window until it is started anew. */
export class Bench {
  state: BenchState;
  private readonly name: string;
  private readonly listeners = new Set<() => void>();
  private readonly history: { sheets: Sheets; device: string }[] = [];
  private lastChange = 0;
  private wanted = false;
  /** How often it was started: of two starts the later one holds, whichever is answered first. */
  private starts = 0;
  private asking = false;

  constructor(
    private readonly slug: string,
    private text: string,
    private readonly stage: string,
    /** The device that is looked at first. */
    private readonly first: string,
  ) {
    this.name = `zensur bench ${slug} ${stage}`;
    this.state = {
      sheets: {},
      under: {},
      device: "",
      asked: [],
      start: "",
      look: null,
      before: null,
      beforeSheets: null,
      about: "",
      moments: [],
      undone: 0,
      said: "",
    };
    const kept = this.kept();
    void this.begin("given", kept);
  }

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  };

  readonly snapshot = () => this.state;

  /** Works on another text of the lab from now on. */
  readonly on = (text: string) => {
    if (text === this.text) return;
    this.text = text;
    this.refresh();
  };

  /** Starts from what is given, the model answer, or sheets of a paper. */
  readonly begin = async (start: string, kept: Partial<BenchState> | null = null, paper?: Sheets) => {
    const turn = ++this.starts;
    try {
      const found = await answered(
        client.POST("/api/bench/start", {
          body: {
            text: this.text,
            stage: this.stage,
            sheet: null,
            start: start === "answer" ? "answer" : "given",
          },
        }),
      );
      if (turn !== this.starts) return;
      const own = Object.fromEntries(
        Object.entries(found.sheets).map(([device, sheet]) => [device, paper?.[device] ?? sheet]),
      );
      if (this.state.look !== null) this.remember();
      const sheets = kept?.sheets === undefined ? own : { ...own, ...known(kept.sheets, own) };
      this.set({
        sheets,
        under: found.under,
        start: kept?.start ?? start,
        device: kept?.device && kept.device in own ? kept.device : this.first,
        asked: kept?.asked ?? this.state.asked,
      });
      this.changed();
    } catch (error) {
      this.set({ said: saidOf(error) });
    }
  };

  /** Puts a bench on that was kept: its sheets and questions, on the lab as it is now. */
  readonly open = async (number: number) => {
    const turn = ++this.starts;
    try {
      const path = { slug: this.slug, number };
      const kept = await answered(client.GET("/api/labs/{slug}/benches/{number}", { params: { path } }));
      if (turn === this.starts)
        await this.begin(startOf(number), { sheets: kept.sheets, asked: kept.asked ?? [] });
    } catch (error) {
      this.set({ said: saidOf(error) });
    }
  };

  /** Keeps it with the lab under a name; returns its number. */
  readonly keep = async (name: string) => {
    const { sheets, asked } = this.state;
    const body = { name, stage: this.stage, sheets, asked };
    const path = { slug: this.slug };
    const kept = await answered(client.POST("/api/labs/{slug}/benches", { params: { path }, body }));
    this.set({ start: startOf(kept.number) });
    this.persist();
    return kept.number;
  };

  readonly type = (device: string, text: string) => {
    if (this.state.sheets[device] === text) return;
    const now = Date.now();
    if (now - this.lastChange > BURST) {
      this.remember();
      this.set({ before: this.state.look, beforeSheets: this.state.sheets });
    }
    this.lastChange = now;
    this.set({ sheets: { ...this.state.sheets, [device]: text } });
    this.changed();
  };

  /** Puts other sheets in place of all. */
  readonly put = (sheets: Sheets) => {
    this.remember();
    this.set({ beforeSheets: this.state.sheets, sheets, before: this.state.look });
    this.lastChange = 0;
    this.changed();
  };

  /** Changes a word everywhere: an address that was planned otherwise. */
  readonly replace = (from: string, to: string) => {
    const word = new RegExp(`(?<![\\w.:])${from.replace(/[.*+?^${}()|[\]\\]/g, "\\$&")}(?![\\w.:])`, "g");
    this.put(
      Object.fromEntries(Object.entries(this.state.sheets).map(([d, text]) => [d, text.replace(word, to)])),
    );
  };

  readonly turn = (device: string) => {
    this.set({ device });
    this.refresh();
  };

  /** Asks a question of one's own; one that cannot be asked is not kept, and said why. */
  readonly ask = async (question: Question) => {
    const body = { ...this.body(), asked: [question] };
    try {
      await answered(client.POST("/api/bench/look", { body }));
    } catch (error) {
      this.set({ said: saidOf(error) });
      return false;
    }
    this.set({ asked: [...this.state.asked, question] });
    this.changed();
    return true;
  };

  readonly forget = (number: number) => {
    this.set({ asked: this.state.asked.filter((_, n) => n !== number) });
    this.changed();
  };

  readonly keepMoment = () => {
    const label = `moment ${this.state.moments.length + 1}`;
    this.set({ moments: [...this.state.moments, { label, sheets: this.state.sheets }] });
  };

  readonly undo = () => {
    const last = this.history.pop();
    if (last === undefined) return;
    this.set({
      sheets: last.sheets,
      device: last.device,
      undone: this.history.length,
      before: this.state.look,
    });
    this.lastChange = 0;
    this.changed();
  };

  /** What is sent of the bench. */
  body(sheets = this.state.sheets) {
    const { device, asked } = this.state;
    return { text: this.text, stage: this.stage, sheet: null, sheets, device, asked, after: null };
  }

  private remember() {
    const { sheets, device } = this.state;
    this.history.push({ sheets, device });
    if (this.history.length > MOST_UNDONE) this.history.shift();
    this.set({ undone: this.history.length });
  }

  private changed() {
    this.persist();
    this.refresh();
  }

  private persist() {
    const { sheets, asked, device, start } = this.state;
    try {
      sessionStorage.setItem(this.name, JSON.stringify({ sheets, asked, device, start }));
    } catch {
      // it stays in the page
    }
  }

  private kept(): Partial<BenchState> | null {
    try {
      return JSON.parse(sessionStorage.getItem(this.name) ?? "null") as Partial<BenchState> | null;
    } catch {
      return null;
    }
  }

  /** Asks what the sheets do: one question at a time is on its way, and the newest sheets follow it. */
  private refresh() {
    this.wanted = true;
    if (!this.asking) void this.send();
  }

  private async send() {
    this.asking = true;
    while (this.wanted) {
      this.wanted = false;
      const body = this.body();
      try {
        const look = await answered(client.POST("/api/bench/look", { body }));
        this.set({ look, about: body.sheets[body.device] ?? "", said: "" });
      } catch (error) {
        this.set({ said: saidOf(error) });
        await this.withoutQuestions(body);
      }
    }
    this.asking = false;
  }

  /** Leaves the questions out where it goes without them: their devices may have gone since they were asked. */
  private async withoutQuestions(body: ReturnType<Bench["body"]>) {
    if (body.asked.length === 0) return;
    const look = await client.POST("/api/bench/look", { body: { ...body, asked: [] } }).catch(() => null);
    if (look?.data === undefined) return;
    this.set({ asked: [], look: look.data, about: body.sheets[body.device] ?? "" });
    this.persist();
  }

  private set(more: Partial<BenchState>) {
    this.state = { ...this.state, ...more };
    this.listeners.forEach((listener) => listener());
  }
}

/** How the start from a bench that was kept is called. */
export const startOf = (number: number) => `bench ${number}`;

const known = (kept: Sheets, own: Sheets): Sheets =>
  Object.fromEntries(Object.entries(kept).filter(([device]) => device in own));

const saidOf = (error: unknown) => (error instanceof Error ? error.message : "This could not be done.");
