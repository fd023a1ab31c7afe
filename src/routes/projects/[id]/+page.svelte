<script lang="ts">
  import { untrack } from "svelte";
  import type { Opened } from "./+page.server";
  import type { PageProps } from "./$types";
  import EditScreen from "$lib/ui/edit/EditScreen.svelte";
  import Opening from "$lib/ui/edit/Opening.svelte";
  import { notices } from "$lib/ui/shared/notices.svelte";

  let { data }: PageProps = $props();
  let opened = $state.raw<Opened | null>(null);

  // The edit screen needs workers, audio and canvas: it is made in the browser.
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

{#if opened && "state" in opened}{#key opened}<EditScreen initial={opened.state} />{/key}
{:else}<Opening name={data.name} fault={opened?.fault ?? null} />{/if}
