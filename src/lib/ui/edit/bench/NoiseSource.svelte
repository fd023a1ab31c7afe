<!-- Where the noise reduction knows its noise from, and learning it from the selected range. -->
<script lang="ts">
  import { choice } from "$lib/core/effects/description";
  import { notices } from "../../shared/notices.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import { learnNoise } from "../../state/noise";
  import type { PanelProps } from "./pictures";

  let { params, commit }: PanelProps = $props();
  const { selection, sampleRate } = useEditor();
  let busy = $state(false);

  const carried = $derived(choice(params, "source") === "carried");
  /** The selected range as far as it lies on the clip, in frames after the clip's start. */
  const part = $derived.by(() => {
    const { clip, range } = selection;
    if (!clip || !range) return undefined;
    const from = Math.max(0, range.from - clip.start);
    const to = Math.min(clip.length, range.to - clip.start);
    return to > from ? { from, to } : undefined;
  });

  async function learn(): Promise<void> {
    const { clip, stepId } = selection;
    if (!clip || !part) return;
    busy = true;
    try {
      const profile = await learnNoise(clip, stepId ?? clip.steps[0].id, part.from, part.to, sampleRate);
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
      This step learns from each sound that it treats: the quietest half second.
    {:else if params.profile === ""}
      No profile is carried yet: until one is learnt, it learns from the sound itself.
    {:else}
      This step carries a learnt profile wherever it goes. It fits the room in which it was learnt.
    {/if}
  </p>
  <button class="plain" disabled={!part || busy} onclick={learn}>Learn from the range</button>
  <p class="soft">
    {part
      ? `${((part.to - part.from) / sampleRate).toFixed(3)} s selected: only noise should be heard in it.`
      : "Select a range of this clip where only the noise is heard."}
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
