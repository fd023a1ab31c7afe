import { condition } from "$lib/server/condition";
import { listProjects } from "$lib/server/services/projects";

export const load = async () => ({ projects: await listProjects(), lost: condition.lost });
