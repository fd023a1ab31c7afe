import type { HandleServerError, ServerInit } from "@sveltejs/kit";
import { resumeJobs } from "$lib/server/jobs/jobs";
import { log } from "$lib/server/log";
import { removeAbandonedUploads } from "$lib/server/uploads";

export const init: ServerInit = async () => {
  await resumeJobs();
  await removeAbandonedUploads();
};

export const handleError: HandleServerError = ({ error, event, status }) => {
  if (status >= 500)
    log.error({ url: event.url.pathname, error: String((error as Error).stack ?? error) }, "page failed");
  return {
    message: status === 404 ? "There is no such page." : "Something went wrong in Wring. Nothing was changed."
  };
};
