<!-- What mono does to two versions that play together, one panned to each side. -->
<script lang="ts">
  import { formatDb } from "$lib/core/units/decibels";
  import { useEditor } from "../../state/editor.svelte";

  const { together } = useEditor();
  const pair = $derived(together.pair);
  const mono = $derived(together.mono);

  $effect(() => together.want());

  const lost = (db: number) => (db > -0.05 ? "nothing is lost" : `${formatDb(-db)} dB are lost`);
</script>

{#if pair}
  <p role="status" aria-label="In mono">
    {pair.first.name} and {pair.second.name} play together, panned apart, in mono:
    {#if mono}
      correlation <span class="number"
        >{mono.correlation === null ? "–" : formatDb(mono.correlation, 2, true)}</span
      >,
      {mono.lossLu === null ? "silence" : lost(mono.lossLu)}{#if mono.cancelled}; between {Math.round(
          mono.cancelled.from
        )} and
        {Math.round(mono.cancelled.to)} Hz they cancel{/if}.
    {:else}…{/if}
  </p>
{/if}

<style>
  p {
    margin: 0;
    padding: 3px 12px;
    border-bottom: 1px solid var(--w-rule);
    background: var(--w-paper);
    font-size: 12px;
  }
</style>
