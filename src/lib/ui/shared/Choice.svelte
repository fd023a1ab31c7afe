<!-- One of a few, side by side: arrow keys go from one to the next. -->
<script lang="ts" generics="T extends string">
  interface Props {
    label: string;
    items: readonly { readonly id: T; readonly name: string; readonly title: string }[];
    value: T;
    choose: (id: T) => void;
  }

  let { label, items, value, choose }: Props = $props();
  let box: HTMLElement | undefined = $state();

  function onkeydown(event: KeyboardEvent): void {
    const by = { ArrowLeft: -1, ArrowUp: -1, ArrowRight: 1, ArrowDown: 1 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    const at = items.findIndex((item) => item.id === value);
    const next = items[(at + by + items.length) % items.length];
    if (!next) return;
    choose(next.id);
    box?.querySelector<HTMLElement>(`[data-id="${next.id}"]`)?.focus();
  }
</script>

<div class="choice" role="radiogroup" aria-label={label} bind:this={box}>
  {#each items as item (item.id)}
    <button
      role="radio"
      aria-checked={item.id === value}
      tabindex={item.id === value ? 0 : -1}
      data-id={item.id}
      title={item.title}
      onclick={() => choose(item.id)}
      {onkeydown}>{item.name}</button
    >
  {/each}
</div>

<style>
  .choice {
    display: flex;
  }

  button {
    height: 22px;
    margin-left: -1px;
    padding: 0 8px;
    border: 1px solid var(--w-soft);
    background: transparent;
    color: var(--w-ink);
    font: inherit;
    white-space: nowrap;
    cursor: pointer;
  }

  button[aria-checked="true"] {
    background: var(--w-slate);
    color: var(--w-on-accent);
    font-weight: 600;
  }

  button:focus-visible {
    position: relative;
    outline: 2px solid var(--w-ink);
    outline-offset: 1px;
  }
</style>
