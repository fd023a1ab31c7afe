<!-- What stands on the bench instead of the chosen step: a title line with fields, and what lies below. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import Close from "carbon-icons-svelte/lib/Close.svelte";
  import type { Snippet } from "svelte";
  import { useEditor } from "../../state/editor.svelte";

  interface Props {
    label: string;
    heading: string;
    /** Fields behind the heading. */
    fields: Snippet;
    children: Snippet;
  }

  let { label, heading, fields, children }: Props = $props();
  const editor = useEditor();
</script>

<section class="panel" aria-label={label}>
  <div class="title">
    <h2>{heading}</h2>
    {@render fields()}
    <span class="gap"></span>
    <Button
      kind="ghost"
      size="small"
      icon={Close}
      iconDescription="Close: {label.toLowerCase()}"
      on:click={() => (editor.panel = null)}
    />
  </div>
  {@render children()}
</section>

<style>
  .panel {
    min-width: 0;
    padding: 0 12px 8px;
    overflow: auto;
    border-left: 1px solid var(--w-rule);
    font-size: 12px;
  }

  .title {
    display: flex;
    align-items: center;
    gap: 6px;
    height: 36px;
    white-space: nowrap;
  }

  h2 {
    overflow: hidden;
    font-size: 14px;
    font-weight: 600;
    text-overflow: ellipsis;
  }

  .gap {
    flex: 1;
  }
</style>
