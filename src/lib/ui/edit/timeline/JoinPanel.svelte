<!-- The join check: what pops, the loudest first; hear each, mend one or all. -->
<script lang="ts">
  import { Button, ProgressBar } from "carbon-components-svelte";
  import Close from "carbon-icons-svelte/lib/Close.svelte";
  import Play from "carbon-icons-svelte/lib/PlayFilledAlt.svelte";
  import type { Pop, PopKind } from "$lib/core/joins/check";
  import { placeText } from "$lib/core/units/timeFormat";
  import { actionOf } from "../../state/actions";
  import { choosePop } from "../../state/joinChecking";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  const { pops, session, preferences, sampleRate } = editor;
  const KINDS: Record<PopKind, string> = {
    jump: "a jump: no fade",
    shortFade: "the fade is too short",
    onset: "cuts into a beginning"
  };

  function what({ clipId, edge }: Pop): string {
    const name = session.shown.get("clips", clipId)?.name ?? "a clip that is gone";
    return `${edge === "in" ? "start" : "end"} of ${name}`;
  }

  const run = (id: string) => actionOf(id).run(editor);
  const found = $derived(pops.found);
</script>

<aside class="joins" aria-label="Join check">
  <div class="title">
    <h2>Join check</h2>
    <Button
      kind="ghost"
      size="small"
      icon={Close}
      iconDescription="Close the join check"
      on:click={() => (pops.open = false)}
    />
  </div>
  {#if pops.share !== null}
    <ProgressBar size="sm" labelText="Listening to all joins" value={pops.share * 100} max={100} />
  {:else if found?.length === 0}
    <p role="status">
      {pops.first > 0 ? `All ${pops.first} are mended.` : "No join pops."}
    </p>
  {:else if found}
    <p role="status" class="soft">
      {found.length} place{found.length === 1 ? "" : "s"} will pop. J goes to the next, H plays it, K mends it.
    </p>
    <ol>
      {#each found as pop, i (`${pop.clipId} ${pop.edge}`)}
        <li class:current={i === pops.at}>
          <button aria-current={i === pops.at} onclick={() => choosePop(editor, i)}>
            <span class="number">{placeText(pop.at, sampleRate, preferences.time)}</span>
            <span class="what">{what(pop)}</span>
            <span class="soft">{KINDS[pop.kind]}</span>
            <span class="number level" title="How far it rises above what masks it"
              >+{pop.excessDb.toFixed(0)} dB</span
            >
          </button>
        </li>
      {/each}
    </ol>
  {/if}
  <div class="buttons">
    <Button kind="tertiary" size="small" icon={Play} disabled={!pops.current} on:click={() => run("popHear")}
      >Hear</Button
    >
    <Button kind="tertiary" size="small" disabled={!pops.current} on:click={() => run("popMend")}>Mend</Button
    >
    <Button kind="tertiary" size="small" disabled={!pops.current} on:click={() => run("popZero")}
      >To zero crossing</Button
    >
    <Button kind="primary" size="small" disabled={!pops.current} on:click={() => run("popMendAll")}
      >Mend all</Button
    >
    <Button kind="ghost" size="small" disabled={pops.share !== null} on:click={() => run("joinCheck")}
      >Check again</Button
    >
  </div>
</aside>

<style>
  .joins {
    position: absolute;
    z-index: 6;
    top: 28px;
    right: 0;
    bottom: 0;
    display: flex;
    flex-direction: column;
    width: 380px;
    border-left: 1px solid var(--w-soft);
    background: var(--w-panel);
    font-size: 13px;
  }

  .title {
    display: flex;
    align-items: center;
    justify-content: space-between;
    padding: 4px 4px 4px 12px;
    border-bottom: 1px solid var(--w-rule);
  }

  h2 {
    font-size: 14px;
    font-weight: 600;
  }

  p,
  .joins > :global(.bx--progress-bar) {
    padding: 8px 12px;
  }

  ol {
    flex: 1;
    min-height: 0;
    margin: 0;
    padding: 0;
    overflow-y: auto;
    list-style: none;
  }

  li {
    border-bottom: 1px solid var(--w-rule);
  }

  li.current {
    background: var(--w-select);
  }

  li button {
    display: grid;
    grid-template-columns: 84px 1fr auto;
    gap: 0 8px;
    width: 100%;
    padding: 5px 12px;
    border: 0;
    background: transparent;
    color: var(--w-ink);
    font: inherit;
    text-align: left;
    cursor: pointer;
  }

  li .soft {
    grid-column: 2;
    font-size: 12px;
  }

  .what {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  .level {
    grid-row: 1;
    grid-column: 3;
  }

  .buttons {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    padding: 8px 12px;
    border-top: 1px solid var(--w-rule);
    margin-top: auto;
  }
</style>
