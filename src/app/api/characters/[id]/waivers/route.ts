import { waiverFile } from '@/core/contracts/waiver';
import { waiveFindings, waiverFileRequest } from '@/routes/waivers';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { fileStem } from '@/server/file-names';
import { type Context, answer, binary, handle, readRequest } from '@/server/http';
import { standing, waive, waiversOf } from '@/server/waivers';

/** The standing waivers as a file, as the command line takes it. */
export const GET = (request: Request, context: Context) =>
  answer(request, async () => {
    const { id } = await readRequest(waiverFileRequest, request, context);
    const { name, revisions, head, waivers } = await characterById(database(), id);
    const number = revisions.find((revision) => revision.id === head)?.number ?? 1;
    const json = `${JSON.stringify(waiverFile(standing(waivers)), null, 1)}\n`;
    return binary(new TextEncoder().encode(json), 'application/json', {
      'content-disposition': `attachment; filename="${fileStem(name, number)}-waivers.json"`,
    });
  });

export const POST = handle(
  waiveFindings,
  async ({ id, revision, ...waiver }) => {
    await waive(database(), id, revision, waiver);
    return { waivers: await waiversOf(database(), id) };
  },
  201,
);
