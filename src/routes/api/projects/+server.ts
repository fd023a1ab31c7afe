import { newProjectSchema } from "$lib/api/types";
import { body, route } from "$lib/server/http";
import { createProject, listProjects } from "$lib/server/services/projects";

export const GET = route(() => listProjects());

export const POST = route(async (event) => {
  const { name, sampleRate } = await body(event, newProjectSchema);
  return { id: await createProject(name, sampleRate) };
});
