<!-- Where the noise reduction knows its noise from, and learning it from the selected range. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { LEAST_NOISE_SECONDS } from "$lib/core/effects/noiseStretch";
  import { choice } from "$lib/core/effects/description";
  import { notices } from "../../shared/notices.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import { learnable, learnNoise } from "../../state/noise";
  import type { PanelProps } from "./pictures";

  let { params, commit }: PanelProps = $props();
  const { session, selection, sampleRate } = useEditor();
  let busy = $state(false);

  const source = $derived(choice(params, "source"));
  const part = $derived(
    selection.subject.steps.some(({ id }) => id === selection.row?.step.id)
      ? learnable(session.shown, selection.subject, selection.range)
      : undefined
  );

  const seconds = $derived(part ? (part.to - part.from) / sampleRate : 0);

  async function learn(): Promise<void> {
    const { subject, row } = selection;
    const id = row?.step.id;
    if (id === undefined || !part) return;
    busy = true;
    try {
      const { profile, from, doubt } = await learnNoise(session.shown, subject, id, part);
      commit({ source: "carried", profile, profileFrom: from.slice(0, 200) });
      if (doubt) notices.fault(doubt);
    } catch (error) {
      notices.fault(error);
    } finally {
      busy = false;
    }
  }
</script>

<div class="noise">
  <p>
    {#if source === "learn"}
      This step finds the steady noise in each sound that it treats. Where there is none, it takes nothing.
    {:else if source === "ask"}
      <strong>It asks for a profile:</strong> nothing is taken until one is learnt.
    {:else if params.profile === ""}
      No profile is carried yet: until one is learnt, a clip learns from its own sound; on a track or the mix
      nothing is taken.
    {:else}
      Carries the profile of <strong>{params.profileFrom || "a place that was not noted"}</strong>. It fits
      the room in which it was learnt.
    {/if}
  </p>
  <Button kind="tertiary" size="small" disabled={!part || busy} on:click={learn}>Learn from the range</Button>
  <p class="soft">
    {#if !part}Select a range of this sound where only the noise is heard.
    {:else if seconds < LEAST_NOISE_SECONDS}Only {seconds.toFixed(3)} s selected: a profile wants {LEAST_NOISE_SECONDS}
      s of noise alone.
    {:else}{seconds.toFixed(3)} s selected: only noise should be heard in it.{/if}
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
