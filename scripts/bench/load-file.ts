import { callApi, type Running } from '../lib/processes.ts';

/** Gives the importer a file; the number of its job. */
export async function loadFile(app: Running, name: string, body: Blob, kind: string): Promise<string> {
  const sent = await fetch(`${app.url}/api/1/files?name=${name}`, { method: 'POST', body });
  const { uploadId } = (await sent.json()) as { uploadId: string };
  const order = { uploadId, kind };
  return (await callApi<{ jobId: string }>(app.url, 'POST', '/api/1/imports', order)).jobId;
}
