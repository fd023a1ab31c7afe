<!-- Rows of presets: chosen by a click or the arrow keys, marked to be written to a file. -->
<script lang="ts">
  import { toggled } from "../shared/toggled";
  import type { PresetRow } from "../state/presetRows";

  interface Props {
    rows: readonly PresetRow[];
    chosen: string | null;
    choose: (id: string) => void;
    marked: ReadonlySet<string>;
  }

  let { rows, chosen, choose, marked = $bindable() }: Props = $props();
  const KIND = { chain: "chain", effect: "setting", fade: "fade" } as const;
  let body: HTMLElement | undefined = $state();

  const mark = (id: string) => (marked = toggled(marked, id));

  function onkeydown(event: KeyboardEvent, index: number): void {
    const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    const next = by === undefined ? undefined : rows[index + by];
    if (!next) return;
    event.preventDefault();
    choose(next.id);
    body?.querySelector<HTMLElement>(`[data-id="${CSS.escape(next.id)}"]`)?.focus();
  }
</script>

<div class="box">
  <table>
    <caption class="visually-hidden">Presets</caption>
    <thead>
      <tr>
        <th scope="col"><span class="visually-hidden">for a file</span></th>
        <th scope="col">name</th><th scope="col">kind</th><th scope="col">steps</th><th scope="col">tags</th>
      </tr>
    </thead>
    <tbody bind:this={body}>
      {#each rows as row, i (row.id)}
        <tr class:chosen={row.id === chosen} onclick={() => choose(row.id)}>
          <td>
            {#if row.kind !== "fade"}
              <input
                type="checkbox"
                aria-label="Mark {row.name} for a file"
                checked={marked.has(row.id)}
                onclick={(event) => event.stopPropagation()}
                onchange={() => mark(row.id)}
              />
            {/if}
          </td>
          <th scope="row">
            <button
              class="name"
              data-id={row.id}
              aria-pressed={row.id === chosen}
              tabindex={row.id === chosen ? 0 : -1}
              title={row.notes}
              onclick={() => choose(row.id)}
              onkeydown={(event) => onkeydown(event, i)}>{row.name}</button
            >
            {#if row.factory}<span class="soft">comes with Wring</span>{/if}
          </th>
          <td>{KIND[row.kind]}</td>
          <td class="what" title={row.what}>{row.what}</td>
          <td class="words">{row.tags.join(", ")}</td>
        </tr>
      {/each}
    </tbody>
  </table>
</div>

<style>
  .box {
    flex: 1;
    min-height: 0;
    overflow-y: auto;
  }

  table {
    width: 100%;
    border-collapse: collapse;
    font-size: 13px;
    table-layout: fixed;
  }

  th,
  td {
    overflow: hidden;
    height: 30px;
    padding: 0 8px 0 0;
    border-bottom: 1px solid var(--w-rule);
    text-align: left;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  thead th {
    position: sticky;
    top: 0;
    background: var(--w-panel);
    color: var(--w-soft);
    font-weight: 400;
  }

  thead th:first-child {
    width: 26px;
  }

  td:first-child {
    text-overflow: clip;
  }

  thead th:nth-child(3) {
    width: 64px;
  }

  thead th:nth-child(2) {
    width: 42%;
  }

  thead th:last-child {
    width: 120px;
  }

  tbody th {
    font-weight: 500;
  }

  tbody tr {
    cursor: pointer;
  }

  tbody tr:hover {
    background: var(--w-paper);
  }

  .chosen,
  .chosen:hover {
    background: var(--w-select);
    --w-soft: var(--w-ink);
  }

  .name {
    max-width: 100%;
    margin-right: 6px;
    padding: 0;
    overflow: hidden;
    border: 0;
    background: none;
    color: inherit;
    font: inherit;
    text-overflow: ellipsis;
    cursor: pointer;
  }

  .what,
  .words {
    color: var(--w-soft);
  }
</style>
