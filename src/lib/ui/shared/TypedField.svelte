<!--
  A typed value: Enter or leaving makes it, Escape takes it back, arrow keys step (fine with Shift), double click is the default. Where nothing
  is typed Enter and Escape leave the field: keys are the screen's again.
-->
<script lang="ts">
  import { TextInput } from "carbon-components-svelte";
  import { notices } from "./notices.svelte";

  interface Props {
    label: string;
    /** What can be typed, as the end of "… takes": "0 to 20 dB". */
    takes: string;
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
    /** Whether Enter leaves the field at once when it makes a value: for fields after which the screen's keys are wanted. */
    leaves?: boolean;
  }

  let {
    label,
    takes,
    text,
    width = "84px",
    title = "",
    commit,
    step,
    reset,
    disabled = false,
    leaves = false
  }: Props = $props();
  let typed = $state<string | null>(null);
  let wrong = $state(false);
  let input = $state<HTMLInputElement | null>(null);
  const id = $props.id();
  const fault = $derived(`${label} takes ${takes}, not “${(typed ?? "").slice(0, 40)}”.`);

  function forget(): void {
    typed = null;
    wrong = false;
  }

  function take(): void {
    if (typed === null) return;
    wrong = !commit(typed);
    if (!wrong) typed = null;
  }

  /** Shows the fault beside the field, above everything that would cut it off. */
  function beside(node: HTMLElement): void {
    const at = input?.getBoundingClientRect();
    if (!at) return;
    node.showPopover();
    const { width, height } = node.getBoundingClientRect();
    const below = at.bottom + 4 + height < innerHeight;
    node.style.left = `${Math.max(4, Math.min(at.left, innerWidth - width - 4))}px`;
    node.style.top = `${below ? at.bottom + 4 : at.top - height - 4}px`;
  }

  function onkeydown(event: KeyboardEvent): void {
    if (event.key === "Enter" || event.key === "Escape") {
      const nothing = typed === null;
      if (event.key === "Enter") take();
      else forget();
      if (nothing || (leaves && !wrong && event.key === "Enter")) input?.blur();
    } else if (step && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
      event.preventDefault();
      forget();
      step(event.key === "ArrowUp" ? 1 : -1, event.shiftKey);
    }
    // What is typed is no key of the screen; with Ctrl or Cmd it may be.
    if (event.key !== "Tab" && !event.ctrlKey && !event.metaKey) event.stopPropagation();
  }

  function onblur(): void {
    take();
    if (wrong) {
      notices.news(`${fault} It stays at ${text}.`);
      forget();
    }
  }
</script>

<span class="field" style:width>
  <TextInput
    size="xs"
    hideLabel
    labelText={label}
    aria-invalid={wrong}
    aria-describedby={wrong ? id : undefined}
    {title}
    bind:ref={input}
    {disabled}
    value={typed ?? text}
    on:input={({ detail }) => {
      typed = String(detail ?? "");
      wrong = false;
    }}
    on:keydown={onkeydown}
    on:blur={onblur}
    ondblclick={() => reset?.()}
  />
</span>
{#if wrong}<span {id} class="fault" role="alert" popover="manual" use:beside>{fault}</span>{/if}

<style>
  .field {
    display: inline-flex;
    vertical-align: top;
    flex: none;
    max-width: 100%;
    height: 24px;
  }

  .field :global(input) {
    font-family: var(--w-mono);
    font-variant-numeric: tabular-nums;
    font-size: 12px;
  }

  .field :global(input[aria-invalid="true"]) {
    outline: 2px solid var(--w-madder);
    outline-offset: -2px;
  }

  .fault {
    position: fixed;
    margin: 0;
    max-width: 320px;
    padding: 4px 8px;
    border: 1px solid var(--w-rule);
    border-left: 4px solid var(--w-madder);
    background: var(--w-panel);
    color: var(--w-ink);
    font-size: 12px;
    white-space: normal;
  }
</style>
