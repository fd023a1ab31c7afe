// Messages: faults stay until they are read, news goes by itself. Those of one kind are shown as one, with a list.
export interface Notice {
  readonly id: number;
  readonly kind: NoticeKind;
  readonly text: string;
  readonly link?: { readonly href: string; readonly label: string };
  /** What can be done about it, as taking it back. */
  readonly act?: { readonly label: string; run(): void };
}

export type NoticeKind = "error" | "success" | "info";

/** All messages of a kind. */
export interface NoticeGroup {
  readonly kind: NoticeKind;
  /** The newest first. */
  readonly notices: readonly Notice[];
}

const KINDS: readonly NoticeKind[] = ["error", "success", "info"];
const NEWS_MS = 6000;
const ACT_MS = 20000;
let next = 1;

class Notices {
  list = $state.raw<readonly Notice[]>([]);

  #add(notice: Omit<Notice, "id">): void {
    const id = next++;
    this.list = [...this.list, { id, ...notice }];
    if (notice.kind !== "error" && !notice.link)
      setTimeout(() => this.dismiss([id]), notice.act ? ACT_MS : NEWS_MS);
  }

  fault(error: unknown): void {
    const text = error instanceof Error ? error.message : String(error);
    // Said again it is the newest, and still one.
    this.list = this.list.filter((n) => n.text !== text);
    this.#add({ kind: "error", text });
  }

  news(text: string, link?: Notice["link"]): void {
    this.#add({ kind: link ? "success" : "info", text, link });
  }

  /** News with something that can be done about it. */
  offer(text: string, label: string, run: () => void): void {
    this.#add({ kind: "success", text, act: { label, run } });
  }

  /**
   * The kinds of which there are messages: that of the newest first, since it answers what was done last. Others wait, faults before the
   * rest; news goes by itself.
   */
  get groups(): readonly NoticeGroup[] {
    const groups = KINDS.map((kind) => ({
      kind,
      notices: this.list.filter((n) => n.kind === kind).reverse()
    })).filter(({ notices: some }) => some.length > 0);
    const newest = this.list.at(-1)?.kind;
    return [...groups].sort((a, b) => Number(b.kind === newest) - Number(a.kind === newest));
  }

  dismiss(ids: readonly number[]): void {
    this.list = this.list.filter((n) => !ids.includes(n.id));
  }
}

export const notices = new Notices();
