<!-- Files on their way to being recordings, a row each. -->
<script lang="ts">
  import { Button, ProgressBar } from "carbon-components-svelte";
  import { isOpen, type ImportRow, type ImportState } from "../state/importRows.svelte";
  import { useEditor } from "../state/editor.svelte";

  const { jobs } = useEditor();
  const { imports } = jobs;
  /** So many rows are shown at once: those under way and those that were refused come first. */
  const SHOWN = 100;
  /** Of those that look alike, while others are under way: to make a row takes time. */
  const FEW: Partial<Record<ImportState, number>> = { waiting: 6, sending: 6, decoding: 6, done: 8 };
  /** Rows come and go many times a second: a button of the browser's own is made sooner than a component. */
  const SMALL = "bx--btn bx--btn--ghost bx--btn--sm";
  const SAID: Readonly<Record<ImportState, string>> = {
    waiting: "waiting",
    sending: "sending",
    decoding: "decoding",
    done: "done",
    same: "here already",
    refused: "refused",
    cancelled: "cancelled"
  };
  const RANK: readonly ImportState[] = [
    "sending",
    "decoding",
    "refused",
    "waiting",
    "same",
    "cancelled",
    "done"
  ];

  /** Those that come first, as many as are shown. */
  function firstOf(all: readonly ImportRow[]): ImportRow[] {
    const byState = new Map<ImportState, ImportRow[]>(RANK.map((state) => [state, []]));
    for (const row of all) byState.get(row.state)?.push(row);
    const first: ImportRow[] = [];
    const few = all.some(isOpen) ? FEW : {};
    for (const [state, some] of byState) {
      const room = SHOWN - first.length;
      first.push(...some.slice(0, Math.min(room, few[state] ?? room)));
    }
    return first;
  }
  const rows = $derived(imports.rows);
  const open = $derived(rows.filter(isOpen).length);
  const shown = $derived(firstOf(rows));
  const refused = $derived(rows.filter(({ state }) => state === "refused").length);
  /** The row has the name already. */
  const reasonOf = ({ reason }: ImportRow) => reason?.replace(/^"[^"]*" was not imported: /, "") ?? "";
  let folded = $state(false);
  const files = (n: number) => `${n} file${n === 1 ? "" : "s"}`;
  /** How all of them stand, in a sentence. */
  function told(): string {
    const rest = refused > 0 ? `, ${refused} refused` : "";
    if (open > 0) return `Importing: ${rows.length - open} of ${rows.length} files are done${rest}`;
    if (refused === rows.length) return `${files(refused)} refused`;
    return `${rows.length - refused} of ${files(rows.length)} ${rows.length === 1 ? "is" : "are"} done${rest}`;
  }
  const moving = (row: ImportRow) => row.state === "sending" || row.state === "decoding";
</script>

{#if rows.length > 0}
  <section class="imports" aria-label="Files to import">
    <div class="head">
      <span class="title" role="status">{told()}</span>
      <ProgressBar size="sm" hideLabel labelText="All files" value={imports.progress} max={1} />
      {#if rows.length > 1}
        <Button kind="ghost" size="small" aria-expanded={!folded} on:click={() => (folded = !folded)}
          >{folded ? "Show" : "Hide"} the files</Button
        >
      {/if}
      {#if open > 1}
        <Button kind="tertiary" size="small" on:click={() => imports.cancelAll()}>Cancel all</Button>
      {:else if open === 0}
        <Button kind="tertiary" size="small" on:click={() => imports.clear()}>Close</Button>
      {/if}
    </div>
    {#if !folded}
      <ul>
        {#each shown as row (row.key)}
          <li>
            <span class="name" title={row.reason ?? row.name}>{row.name}</span>
            {#if moving(row)}
              <progress aria-label={row.name} value={row.progress} max="1"></progress>
            {:else}<span class="reason soft" title={row.reason}>{reasonOf(row)}</span>{/if}
            <span class="state" class:bad={row.state === "refused"}>{SAID[row.state]}</span>
            {#if moving(row) || row.state === "waiting"}
              <button
                class={SMALL}
                aria-label="Cancel: Upload {row.name}"
                onclick={() => imports.cancel(row.key)}>Cancel</button
              >
            {:else if row.torn}
              <button
                class={SMALL}
                title="Take it as far as it can be read, marked as cut"
                aria-label="Take part: what can be read of {row.name}"
                onclick={() => imports.takePart(row.key)}>Take part</button
              >
            {:else}<span></span>{/if}
          </li>
        {/each}
        {#if rows.length > shown.length}<li class="soft">and {rows.length - shown.length} more</li>{/if}
      </ul>
    {/if}
  </section>
{/if}

<style>
  .imports {
    display: grid;
    gap: 4px;
    font-size: 12px;
  }

  .head {
    display: grid;
    grid-template-columns: 270px 220px auto auto;
    align-items: center;
    gap: 8px;
  }

  .title {
    font-weight: 600;
  }

  ul {
    max-height: 30vh;
    margin: 0;
    padding: 0;
    overflow-y: auto;
    list-style: none;
  }

  li {
    display: grid;
    grid-template-columns: 190px 300px 86px 84px;
    align-items: center;
    gap: 8px;
    min-height: 24px;
  }

  progress {
    width: 100%;
    height: 4px;
    border: 0;
    appearance: none;
    background: var(--w-rule);
  }

  progress::-webkit-progress-bar {
    background: var(--w-rule);
  }

  progress::-webkit-progress-value {
    background: var(--w-slate);
  }

  progress::-moz-progress-bar {
    background: var(--w-slate);
  }

  .name,
  .reason {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  .bad {
    color: var(--w-madder);
    font-weight: 600;
  }
</style>
