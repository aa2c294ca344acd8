import { checkText, queryClient } from "../api/queries";
import { Refused, type Schemas } from "../api/client";
import {
  dropDraft,
  keepDraft,
  look,
  makeEdits,
  saveLab,
  type Edit,
  type Look,
  type SheetAsked,
} from "./calls";
import { keep, keepSheet, readKept, readSheet, windowName } from "./window";

/** How long a text rests before the server keeps it, and before the lab check looks at it, in milliseconds. */
const KEPT_AFTER = 400;
const CHECKED_AFTER = 350;
const MOST_UNDONE = 300;

/** What is known of a lab that is worked on. It never changes: another state takes its place. */
export interface State {
  text: string;
  /** The text of the version that was saved last, and its number; `base` is the one that the text began with. */
  saved: string;
  version: number;
  base: number;
  stage: string;
  sheet: SheetAsked | null;
  /** What is shown; of the last text that could be read. */
  look: Look | null;
  /** Why the text cannot be read, where it cannot. */
  unread: Schemas["ErrorPlace"][];
  check: Schemas["CheckShape"] | null;
  /** The text that the check is of. */
  checked: string;
  /** Why the last edit, or saving, was refused. */
  refused: string;
  refusedAt: Schemas["ErrorPlace"][];
  undone: number;
  redone: number;
  busy: boolean;
  /** Whether it was saved since it was last changed. */
  savedNow: boolean;
}

/** A lab that is worked on in this window: its text is the one state, and every view is a view of it. */
export class Work {
  readonly slug: string;
  state: State;
  private readonly window = windowName();
  private readonly listeners = new Set<() => void>();
  private readonly before: string[] = [];
  private readonly after: string[] = [];
  private queue: Promise<unknown> = Promise.resolve();
  private keeping = 0;
  private checking = 0;
  private asked = 0;
  private pending: (SheetAsked & { text: string }) | null = null;
  private sending = false;
  private sent: Promise<unknown> = Promise.resolve();

  constructor(slug: string, saved: { text: string; version: number }) {
    const kept = readKept(slug);
    this.slug = slug;
    this.state = {
      text: kept?.text ?? saved.text,
      saved: saved.text,
      version: saved.version,
      base: kept?.base ?? saved.version,
      stage: "",
      sheet: null,
      look: null,
      unread: [],
      check: null,
      checked: "",
      refused: "",
      refusedAt: [],
      undone: 0,
      redone: 0,
      busy: false,
      savedNow: false,
    };
    this.refresh();
    this.checkLater();
    const left = readSheet(slug); // the page was left before it was in the text
    if (left !== null) this.typeSheet({ side: left.side, device: left.device }, left.text);
  }

  get changed(): boolean {
    return this.state.text !== this.state.saved;
  }

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  };

  readonly snapshot = () => this.state;

  /** Takes note of the newest version on the server: this window's own text stays. */
  readonly newest = (text: string, version: number) => {
    if (version === this.state.version) return;
    const mine = this.changed;
    this.set({ saved: text, version, ...(mine ? {} : { text, base: version }) });
    if (!mine) this.shown();
  };

  /** Turns to a stage. */
  readonly turn = (stage: string) => {
    if (stage === this.state.stage) return;
    this.set({ stage });
    this.refresh();
  };

  /** Asks for the remarks on a sheet from now on. */
  readonly watch = (sheet: SheetAsked | null) => {
    this.set({ sheet });
    if (sheet !== null) this.refresh();
  };

  /** Has edits made, one call behind the other; answers whether they were made. */
  readonly edit = (...edits: Edit[]): Promise<boolean> => {
    const made = this.queue.then(() => this.make(edits));
    this.queue = made;
    return made;
  };

  private async make(edits: Edit[]): Promise<boolean> {
    const { text, stage, sheet } = this.state;
    this.set({ busy: true });
    try {
      const found = await makeEdits({ text, stage, sheet, edits });
      this.asked++;
      this.put(found.text, {
        stage: found.stage,
        look: found.look,
        unread: found.look.errors,
        refused: "",
        refusedAt: [],
      });
      return true;
    } catch (error) {
      this.set({ refused: saidOf(error), refusedAt: [] });
      return false;
    } finally {
      this.set({ busy: false });
    }
  }

  /** Takes the text as it was typed. */
  readonly type = (text: string) => {
    if (text === this.state.text) return;
    this.put(text, { refused: "", refusedAt: [] });
    this.refresh();
  };

  /** Takes a sheet as it is typed: one edit at a time is on its way, and the newest text follows it. */
  readonly typeSheet = (of: SheetAsked, text: string) => {
    this.pending = { ...of, text };
    keepSheet(this.slug, this.pending);
    if (this.sending) return;
    this.sending = true;
    this.sent = this.send();
  };

  private async send() {
    while (this.pending !== null) {
      const { side, device, text } = this.pending;
      const made = await this.edit({ do: "put-sheet", side, device, text });
      const newer =
        this.pending.text !== text || this.pending.device !== device || this.pending.side !== side;
      if (!newer || !made) this.pending = newer ? this.pending : null;
    }
    keepSheet(this.slug, null);
    this.sending = false;
  }

  /** What was typed into a sheet and is not yet in the text. */
  pendingSheet(side: string, device: string): string | null {
    const own = this.pending;
    return own !== null && own.side === side && own.device === device ? own.text : null;
  }

  readonly undo = () => this.step(this.before, this.after);
  readonly redo = () => this.step(this.after, this.before);

  /** Forgets why the last edit was refused. */
  readonly calm = () => {
    if (this.state.refused !== "") this.set({ refused: "", refusedAt: [] });
  };

  private step(from: string[], to: string[]) {
    void this.settled().then(() => {
      const text = from.pop();
      if (text === undefined) return;
      to.push(this.state.text);
      this.set({ text, refused: "", refusedAt: [], ...this.counts() });
      this.shown();
    });
  }

  /** Resolves once all edits that were asked for are made. */
  readonly settled = async () => {
    await this.sent;
    await this.queue;
  };

  /** Saves the text as the next version; answers its number, null where it was refused. */
  readonly save = async (): Promise<number | null> => {
    await this.settled();
    const { text, base } = this.state;
    try {
      const { version } = await saveLab(this.slug, { text, base });
      this.set({ saved: text, version, base: version, refused: "", refusedAt: [], savedNow: true });
      void queryClient.invalidateQueries();
      this.keepNow();
      return version;
    } catch (error) {
      this.set({ refused: saidOf(error), refusedAt: error instanceof Refused ? error.places : [] });
      if (error instanceof Refused && error.status === 409)
        void queryClient.invalidateQueries({ queryKey: ["lab", this.slug] });
      return null;
    }
  };

  /** Puts what was typed on top of the newest version, whatever somebody else has changed there. */
  readonly rebase = () => {
    this.set({ base: this.state.version, refused: "" });
    this.keepNow();
  };

  /** Gives up what was not saved; undo brings it back. */
  readonly revert = () => {
    this.put(this.state.saved, { base: this.state.version, refused: "", refusedAt: [] });
    this.shown();
  };

  private put(text: string, more: Partial<State> = {}) {
    if (text !== this.state.text) {
      this.before.push(this.state.text);
      if (this.before.length > MOST_UNDONE) this.before.shift();
      this.after.length = 0;
    }
    this.set({ text, savedNow: false, ...more, ...this.counts() });
    this.keepNow();
    this.checkLater();
  }

  private counts() {
    return { undone: this.before.length, redone: this.after.length };
  }

  private shown() {
    this.keepNow();
    this.refresh();
    this.checkLater();
  }

  /** Asks what is shown of the text; an answer about an earlier one is left out. */
  private refresh() {
    const { text, stage, sheet } = this.state;
    const asked = ++this.asked;
    look({ text, stage, sheet }).then(
      (found) => asked === this.asked && this.set({ look: found, stage: found.stage, unread: found.errors }),
      (error: unknown) =>
        asked === this.asked &&
        this.set(
          error instanceof Refused && error.places.length > 0
            ? { unread: error.places }
            : { refused: saidOf(error) },
        ),
    );
  }

  private keepNow() {
    const { text, base } = this.state;
    const kept = this.changed ? { text, base } : null;
    keep(this.slug, kept);
    window.clearTimeout(this.keeping);
    this.keeping = window.setTimeout(() => {
      const stored =
        kept === null ? dropDraft(this.slug, this.window) : keepDraft(this.slug, this.window, kept);
      stored.catch(() => this.keepNow()); // the server is away: it is asked again, and this window has the text
    }, KEPT_AFTER);
  }

  private checkLater() {
    window.clearTimeout(this.checking);
    this.checking = window.setTimeout(() => {
      const { text } = this.state;
      checkText(text).then(
        (found) => text === this.state.text && this.set({ check: found.check, checked: text }),
        () => undefined, // the next change asks again
      );
    }, CHECKED_AFTER);
  }

  private set(more: Partial<State>) {
    this.state = { ...this.state, ...more };
    this.listeners.forEach((listener) => listener());
  }
}

const saidOf = (error: unknown) => (error instanceof Error ? error.message : "This could not be done.");
