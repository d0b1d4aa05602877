import { type FindingTold, waiverFile } from '@/core/contracts/waiver';
import { isKeyInMotion } from '@/core/house/registry';
import { waiveFindings, waiverFileRequest } from '@/routes/waivers';
import { briefById } from '@/server/briefs';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { lastHandedMotion } from '@/server/dockets';
import { fileStem } from '@/server/file-names';
import { type Context, answer, binary, handle, readRequest } from '@/server/http';
import { runTask } from '@/server/pool';
import { revisionById, wireOf } from '@/server/revisions';
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
    await waive(database(), id, revision, waiver, await foundInMotion(revision, waiver.keys));
    return { waivers: await waiversOf(database(), id) };
  },
  201,
);

/** What shows of a revision in motion, where findings of that are among those that are waived: it is tried again for it. */
async function foundInMotion(revision: string, keys: readonly string[]): Promise<readonly FindingTold[]> {
  if (!keys.some(isKeyInMotion)) return [];
  const { brief, characterId } = await revisionById(database(), revision);
  const { findings } = await runTask('standing', async () => ({
    wire: await wireOf(database(), revision),
    brief: await briefById(database(), brief),
    isMoved: true,
    handed: await lastHandedMotion(database(), characterId),
  }));
  return findings.filter(({ key }) => isKeyInMotion(key));
}
