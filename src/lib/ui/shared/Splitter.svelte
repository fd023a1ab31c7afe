<!--
  The line between two regions, at the edge of the one whose height it sets: dragged, moved by arrow keys (far with Shift), collapsed
  and restored by Enter or a double click.
-->
<script lang="ts">
  interface Props {
    label: string;
    /** Id of the region whose height it sets. */
    controls: string;
    /** Height in pixels. */
    size: number;
    /** Height of the region when it is collapsed: the least. */
    min: number;
    max: number;
    /** Height to which it is restored when none is known. */
    standard: number;
    /** Whether it lies at the region's lower edge; at its upper one unless said. */
    lower?: boolean;
  }

  let { label, controls, size = $bindable(), min, max, standard, lower = false }: Props = $props();

  const STEP = 10;
  const FAR = 40;
  let pressed: { readonly size: number; readonly y: number } | null = null;
  let before = $state(0);

  /** Pixels that the region gains by one pixel downwards. */
  const gain = $derived(lower ? 1 : -1);
  const put = (wanted: number) => (size = Math.round(Math.min(max, Math.max(min, wanted))));

  function collapse(): void {
    if (size > min) {
      before = size;
      put(min);
    } else put(before > min ? before : standard);
  }

  function down(event: PointerEvent & { currentTarget: HTMLElement }): void {
    if (event.button !== 0) return;
    event.preventDefault();
    event.currentTarget.setPointerCapture(event.pointerId);
    event.currentTarget.focus();
    pressed = { size, y: event.clientY };
  }

  function onkeydown(event: KeyboardEvent): void {
    const far = event.shiftKey ? FAR : STEP;
    if (event.key === "Escape" && pressed) put(pressed.size);
    else if (event.key === "ArrowUp") put(size - gain * far);
    else if (event.key === "ArrowDown") put(size + gain * far);
    else if (event.key === "Home") put(min);
    else if (event.key === "End") put(max);
    else if (event.key === "Enter") collapse();
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<!-- A separator that can be moved is a control (WAI-ARIA 1.2, "separator"), which the linter does not know. -->
<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
  class="splitter"
  class:lower
  role="separator"
  tabindex="0"
  aria-orientation="horizontal"
  aria-label={label}
  aria-controls={controls}
  aria-valuemin={min}
  aria-valuemax={max}
  aria-valuenow={size}
  aria-valuetext="{size} pixels"
  title="Drag, or arrow keys; double click or Enter collapses it"
  onpointerdown={down}
  onpointermove={(event) => pressed && put(pressed.size + gain * (event.clientY - pressed.y))}
  onpointerup={() => (pressed = null)}
  onlostpointercapture={() => (pressed = null)}
  ondblclick={collapse}
  {onkeydown}
></div>

<style>
  .splitter {
    position: absolute;
    top: -4px;
    left: 0;
    right: 0;
    z-index: 2;
    height: 8px;
    cursor: ns-resize;
    touch-action: none;
  }

  .splitter.lower {
    top: auto;
    bottom: -3px;
    height: 6px;
  }

  .splitter:hover,
  .splitter:focus-visible {
    background: var(--w-slate);
  }
</style>
