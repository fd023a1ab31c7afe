import type { RequestHandler } from "./$types";
import { handleUpload } from "$lib/server/uploads";

const handle: RequestHandler = ({ request }) => handleUpload(request);

export { handle as DELETE, handle as HEAD, handle as OPTIONS, handle as PATCH, handle as POST };
