// Whether what has the focus got it from the pointer: Space plays then, and presses what was reached by keyboard.

export class FocusOrigin {
  #pointer = false;
  #focused: EventTarget | null = null;

  /** Listens to a window; returns what ends it. */
  listen(on: Window): () => void {
    const listeners = {
      pointerdown: () => (this.#pointer = true),
      keydown: () => (this.#pointer = false),
      focusin: (event: Event) => (this.#focused = this.#pointer ? event.target : null)
    };
    for (const [name, listener] of Object.entries(listeners)) on.addEventListener(name, listener, true);
    return () => {
      for (const [name, listener] of Object.entries(listeners)) on.removeEventListener(name, listener, true);
    };
  }

  /** Whether an element has the focus because it was pressed with the pointer. */
  byPointer(element: EventTarget): boolean {
    return element === this.#focused;
  }
}
