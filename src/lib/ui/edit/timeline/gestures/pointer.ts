import type { Attachment } from "svelte/attachments";
import type { Gesture, LanePoint } from "./gesture";

/** A press becomes a drag after this way: less is a click. */
const CLICK_PIXELS = 3;

/** Keys that are held besides those that a pointer's event tells of. */
type Held = Pick<LanePoint, "digit" | "copy">;
const NO_KEYS: Held = { digit: null, copy: false };

/** Where a pointer is on the lanes' element. */
export function pointOf(node: HTMLElement, event: MouseEvent, held: Held = NO_KEYS): LanePoint {
  const box = node.getBoundingClientRect();
  const { shiftKey: shift, ctrlKey, metaKey, altKey: alt } = event;
  return {
    x: event.clientX - box.left,
    y: event.clientY - box.top,
    shift,
    ctrl: ctrlKey || metaKey,
    alt,
    ...held
  };
}

/**
 * The one listener for the pointer on the lanes.
 * @param begin makes the gesture of a press at this point; undefined: nothing is dragged from there
 */
export function lanePointer(begin: (at: LanePoint) => Gesture | undefined): Attachment<HTMLElement> {
  return (node) => {
    let press: { readonly id: number; readonly at: LanePoint } | undefined;
    let gesture: Gesture | undefined;
    let dragged = false;
    /** Where the pointer was last, while something is dragged. */
    let last: LanePoint | undefined;
    let held = NO_KEYS;

    function down(event: PointerEvent): void {
      dragged = false;
      // What lies over the lanes and is pulled itself says so.
      if (event.target instanceof Element && event.target.closest("[data-pulled-itself]")) return;
      if (event.button === 0 && !press) press = { id: event.pointerId, at: pointOf(node, event) };
    }

    function move(event: PointerEvent): void {
      if (press?.id !== event.pointerId) return;
      const point = pointOf(node, event, held);
      if (!gesture) {
        if (Math.hypot(point.x - press.at.x, point.y - press.at.y) <= CLICK_PIXELS) return;
        gesture = begin(press.at);
        if (!gesture) {
          press = undefined;
          return;
        }
        dragged = true;
        // Captured at once, a click would go to the lanes instead of the clip.
        node.setPointerCapture(press.id);
      }
      last = point;
      gesture.move(point);
    }

    function finish(how: "end" | "cancel"): void {
      const [now, was] = [gesture, press];
      gesture = press = last = undefined;
      held = NO_KEYS;
      if (was && node.hasPointerCapture(was.id)) node.releasePointerCapture(was.id);
      now?.[how]();
    }

    const up = (event: PointerEvent) => press?.id === event.pointerId && finish("end");
    const lost = (event: PointerEvent) => press?.id === event.pointerId && finish("cancel");

    /** Shows what a key makes of the drag, with the pointer where it is. */
    function again(change: Partial<LanePoint>): void {
      if (!gesture || !last) return;
      last = { ...last, ...change };
      gesture.move(last);
    }

    function hold(change: Partial<Held>): void {
      held = { ...held, ...change };
      again(held);
    }

    function key(event: KeyboardEvent): void {
      if (!gesture) return;
      const pressed = event.type === "keydown";
      // While something is dragged the keys are the drag's.
      event.preventDefault();
      event.stopPropagation();
      if (event.key === "Escape" && pressed) finish("cancel");
      else if (event.key === "Alt") again({ alt: pressed });
      else if (/^\d$/.test(event.key)) hold({ digit: pressed ? event.key : null });
      else if (event.key.toLowerCase() === "d") hold({ copy: pressed });
    }

    /** Letting go after a drag is no click. */
    function click(event: MouseEvent): void {
      if (!dragged) return;
      dragged = false;
      event.preventDefault();
      event.stopPropagation();
    }

    const listeners = {
      pointerdown: down,
      pointermove: move,
      pointerup: up,
      pointercancel: lost,
      lostpointercapture: lost
    } as const;
    for (const [name, listener] of Object.entries(listeners))
      node.addEventListener(name, listener as EventListener);
    node.addEventListener("click", click, true);
    for (const name of ["keydown", "keyup"] as const) window.addEventListener(name, key, true);
    return () => {
      finish("cancel");
      for (const [name, listener] of Object.entries(listeners))
        node.removeEventListener(name, listener as EventListener);
      node.removeEventListener("click", click, true);
      for (const name of ["keydown", "keyup"] as const) window.removeEventListener(name, key, true);
    };
  };
}
