<!-- The spans of a clip's steps, drawn where they lie: one thin band each, above the hem. -->
<script lang="ts">
  import { effectOf } from "$lib/core/effects/registry";
  import type { ResolvedClip } from "$lib/core/session/lookup";
  import { useEditor } from "../../state/editor.svelte";

  let { clip, x0 }: { clip: ResolvedClip; x0: number } = $props();
  const { view, selection } = useEditor();

  const bands = $derived(
    clip.steps.flatMap((step) => {
      if (!step.span) return [];
      const from = Math.max(step.span.from, clip.offset) - clip.offset + clip.start;
      const to = Math.min(step.span.to, clip.offset + clip.length) - clip.offset + clip.start;
      if (to <= from) return [];
      return [{ step, left: view.x(from) - x0, width: Math.max(2, (to - from) / view.framesPerPixel) }];
    })
  );
</script>

{#each bands as { step, left, width }, row (step.id)}
  <div
    class="band"
    class:off={!step.on}
    class:chosen={selection.stepId === step.id}
    data-span={step.id}
    title="{effectOf(step.effect).name} treats this part only"
    style:left="{left}px"
    style:width="{width}px"
    style:bottom="{13 + row * 5}px"
  ></div>
{/each}

<style>
  .band {
    position: absolute;
    box-sizing: border-box;
    height: 4px;
    border-inline: 2px solid var(--w-madder);
    background: color-mix(in srgb, var(--w-madder) 55%, transparent);
    pointer-events: none;
  }

  .band.off {
    border: 1px solid var(--w-soft);
    background: transparent;
  }

  .band.chosen {
    background: var(--w-madder);
  }
</style>
