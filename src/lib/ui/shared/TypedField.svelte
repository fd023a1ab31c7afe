<!-- A typed value: Enter or leaving makes it, Escape takes it back, arrow keys step (fine with Shift), double click is the default. -->
<script lang="ts">
  interface Props {
    label: string;
    /** Text of the value. */
    text: string;
    width?: string;
    title?: string;
    /** Takes a typed text; false when it is not a value. */
    commit: (text: string) => boolean;
    /** One arrow key: direction 1 or -1, fine with Shift. */
    step?: (direction: 1 | -1, fine: boolean) => void;
    reset?: () => void;
    disabled?: boolean;
  }

  let { label, text, width = "84px", title = "", commit, step, reset, disabled = false }: Props = $props();
  let typed = $state<string | null>(null);
  let wrong = $state(false);

  function take(): void {
    if (typed === null) return;
    wrong = !commit(typed);
    if (!wrong) typed = null;
  }

  function onkeydown(event: KeyboardEvent): void {
    if (event.key === "Enter") take();
    else if (event.key === "Escape") {
      typed = null;
      wrong = false;
    } else if (step && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
      event.preventDefault();
      typed = null;
      step(event.key === "ArrowUp" ? 1 : -1, event.shiftKey);
    }
    if (event.key !== "Tab") event.stopPropagation();
  }

  function onblur(): void {
    take();
    if (wrong) {
      typed = null;
      wrong = false;
    }
  }
</script>

<input
  class="typed"
  style:width
  aria-label={label}
  aria-invalid={wrong}
  title={wrong ? "This is not a value that fits here." : title}
  {disabled}
  value={typed ?? text}
  oninput={(event) => (typed = event.currentTarget.value)}
  {onkeydown}
  {onblur}
  ondblclick={() => reset?.()}
/>
