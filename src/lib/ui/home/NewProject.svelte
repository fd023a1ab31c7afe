<script lang="ts">
  import { Button, Form, Select, SelectItem, TextInput } from "carbon-components-svelte";
  import Add from "carbon-icons-svelte/lib/Add.svelte";
  import { goto } from "$app/navigation";
  import { PROJECT_RATES } from "$lib/core/session/schema";
  import { api } from "../shared/api";
  import { notices } from "../shared/notices.svelte";

  let name = $state("");
  let rate = $state("48000");
  let missing = $state(false);

  async function create(event: Event): Promise<void> {
    event.preventDefault();
    missing = name.trim() === "";
    if (missing) return;
    try {
      const { id } = await api.post<{ id: string }>("/api/projects", { name, sampleRate: Number(rate) });
      await goto(`/projects/${id}`);
    } catch (error) {
      notices.fault(error);
    }
  }
</script>

<Form on:submit={create}>
  <div class="row">
    <TextInput
      size="sm"
      labelText="Name of the new project"
      placeholder="Episode 12"
      bind:value={name}
      invalid={missing}
      invalidText="A project needs a name."
    />
    <Select size="sm" labelText="Sample rate" bind:selected={rate}>
      {#each PROJECT_RATES as r (r)}<SelectItem value={String(r)} text="{r / 1000} kHz" />{/each}
    </Select>
    <Button size="small" type="submit" icon={Add}>New project</Button>
  </div>
</Form>

<style>
  .row {
    display: grid;
    grid-template-columns: 1fr 130px auto;
    gap: 12px;
    align-items: start;
  }

  .row :global(.bx--btn) {
    height: 32px;
    margin-top: 24px;
  }
</style>
