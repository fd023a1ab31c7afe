// Messages at the edge of the screen: faults stay until they are read, news goes by itself.
export interface Notice {
  readonly id: number;
  readonly kind: "error" | "info" | "success";
  readonly text: string;
  readonly link?: { readonly href: string; readonly label: string };
}

const NEWS_MS = 6000;
let next = 1;

class Notices {
  list = $state<Notice[]>([]);

  #add(notice: Omit<Notice, "id">): void {
    const id = next++;
    this.list = [...this.list, { id, ...notice }];
    if (notice.kind !== "error" && !notice.link) setTimeout(() => this.dismiss(id), NEWS_MS);
  }

  fault(error: unknown): void {
    const text = error instanceof Error ? error.message : String(error);
    if (!this.list.some((n) => n.text === text)) this.#add({ kind: "error", text });
  }

  news(text: string, link?: Notice["link"]): void {
    this.#add({ kind: link ? "success" : "info", text, link });
  }

  dismiss(id: number): void {
    this.list = this.list.filter((n) => n.id !== id);
  }
}

export const notices = new Notices();
