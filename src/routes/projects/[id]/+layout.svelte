<script lang="ts">
  import { untrack } from "svelte";
  import { page } from "$app/state";
  import type { Opened } from "./+layout.server";
  import type { LayoutProps } from "./$types";
  import ProjectFrame from "$lib/ui/ProjectFrame.svelte";
  import Opening from "$lib/ui/edit/Opening.svelte";
  import { notices } from "$lib/ui/shared/notices.svelte";

  let { data, children }: LayoutProps = $props();
  let opened = $state.raw<Opened | null>(null);
  const screen = $derived(page.route.id?.replace(/^\/projects\/\[id\]\/?/, "") ?? "");

  // A project's screens need workers, audio and canvas: they are made in the browser.
  $effect(() => {
    const { id } = data;
    opened = null;
    untrack(() => data.opened)
      .then((text) => {
        if (id === data.id) opened = JSON.parse(text) as Opened;
      })
      .catch((error: unknown) => notices.fault(error));
  });
</script>

<svelte:head><title>{data.name} · Wring</title></svelte:head>

{#if opened && "state" in opened}
  {#key opened}<ProjectFrame initial={opened.state} {screen}>{@render children()}</ProjectFrame>{/key}
{:else}<Opening name={data.name} fault={opened?.fault ?? null} />{/if}
