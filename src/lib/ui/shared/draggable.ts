import interact from "interactjs";
import type { Action } from "svelte/action";

export interface DragHandlers {
  /** Return false to refuse. */
  onstart?: (event: { shiftKey: boolean; ctrlKey: boolean }) => void;
  /** Pixels since the start, and the pointer's place on the screen. */
  onmove: (dx: number, dy: number, clientX: number, clientY: number) => void;
  onend: () => void;
}

/** Lets an element be dragged by mouse, pen or finger. */
export const draggable: Action<HTMLElement, DragHandlers> = (node, first) => {
  let handlers = first;
  let x = 0;
  let y = 0;
  const drag = interact(node)
    .styleCursor(false)
    .draggable({
      listeners: {
        start(event: Interact) {
          x = y = 0;
          handlers.onstart?.(event);
        },
        move(event: Interact) {
          x += event.dx;
          y += event.dy;
          handlers.onmove(x, y, event.clientX, event.clientY);
        },
        end: () => handlers.onend()
      }
    });
  return {
    update: (next) => (handlers = next),
    destroy: () => drag.unset()
  };
};

interface Interact {
  readonly dx: number;
  readonly dy: number;
  readonly clientX: number;
  readonly clientY: number;
  readonly shiftKey: boolean;
  readonly ctrlKey: boolean;
}
