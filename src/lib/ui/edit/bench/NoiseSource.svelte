<!-- Where the noise reduction knows its noise from, and learning it from the selected range. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { choice } from "$lib/core/effects/description";
  import { notices } from "../../shared/notices.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import { learnable, learnNoise } from "../../state/noise";
  import type { PanelProps } from "./pictures";

  let { params, commit }: PanelProps = $props();
  const { session, selection, sampleRate } = useEditor();
  let busy = $state(false);

  const carried = $derived(choice(params, "source") === "carried");
  const part = $derived(
    selection.subject.steps.some(({ id }) => id === selection.row?.step.id)
      ? learnable(session.shown, selection.subject, selection.range)
      : undefined
  );

  async function learn(): Promise<void> {
    const { subject, row } = selection;
    const id = row?.step.id;
    if (id === undefined || !part) return;
    busy = true;
    try {
      const profile = await learnNoise(session.shown, subject, id, part);
      commit({ source: "carried", profile });
    } catch (error) {
      notices.fault(error);
    } finally {
      busy = false;
    }
  }
</script>

<div class="noise">
  <p>
    {#if !carried}
      This step finds the steady noise in each sound that it treats. Where there is none, it takes nothing.
    {:else if params.profile === ""}
      No profile is carried yet: until one is learnt, a clip learns from its own sound; on a track or the mix
      nothing is taken.
    {:else}
      This step carries a learnt profile wherever it goes. It fits the room in which it was learnt.
    {/if}
  </p>
  <Button kind="tertiary" size="small" disabled={!part || busy} on:click={learn}>Learn from the range</Button>
  <p class="soft">
    {part
      ? `${((part.to - part.from) / sampleRate).toFixed(3)} s selected: only noise should be heard in it.`
      : "Select a range of this sound where only the noise is heard."}
  </p>
</div>

<style>
  .noise {
    width: 190px;
    font-size: 12px;
  }

  p {
    margin: 0 0 8px;
  }
</style>
