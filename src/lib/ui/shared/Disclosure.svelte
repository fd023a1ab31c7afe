<!-- A small panel that opens under its button. -->
<script lang="ts">
  import ChevronDown from "carbon-icons-svelte/lib/ChevronDown.svelte";
  import type { Snippet } from "svelte";

  let { label, name, children }: { label: string; name: string; children: Snippet } = $props();
  let open = $state(false);
  let button: HTMLElement | undefined = $state();
  let panel: HTMLElement | undefined = $state();
  const id = $props.id();

  function outside(event: PointerEvent): void {
    const { target } = event;
    if (open && target instanceof Node && !panel?.contains(target) && !button?.contains(target)) open = false;
  }

  function escape(event: KeyboardEvent): void {
    if (!open || event.key !== "Escape") return;
    event.preventDefault();
    event.stopPropagation();
    open = false;
    button?.focus();
  }
</script>

<svelte:window onpointerdowncapture={outside} />

<span class="disclosure">
  <button
    bind:this={button}
    aria-expanded={open}
    aria-controls={id}
    aria-label="{name}: {label}"
    title={name}
    onkeydown={escape}
    onclick={() => (open = !open)}>{label}<ChevronDown size={16} /></button
  >
  {#if open}
    <!-- svelte-ignore a11y_no_static_element_interactions -->
    <div class="panel" {id} bind:this={panel} onkeydown={escape}>{@render children()}</div>
  {/if}
</span>

<style>
  .disclosure {
    position: relative;
  }

  button {
    display: inline-flex;
    align-items: center;
    gap: 2px;
    height: 22px;
    padding: 0 2px 0 8px;
    border: 1px solid var(--w-soft);
    background: transparent;
    color: var(--w-ink);
    font: inherit;
    white-space: nowrap;
    cursor: pointer;
  }

  button:focus-visible {
    outline: 2px solid var(--w-ink);
    outline-offset: 1px;
  }

  .panel {
    position: absolute;
    z-index: 8;
    top: 26px;
    right: 0;
    min-width: 240px;
    border: 1px solid var(--w-soft);
    background: var(--w-panel);
    box-shadow: 0 2px 6px rgb(31 36 48 / 20%);
  }
</style>
