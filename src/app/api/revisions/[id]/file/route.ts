import { zipSync } from 'fflate';
import { fileRequest } from '@/routes/revisions';
import { database } from '@/server/database';
import { checkFormat } from '@/server/format-asked';
import { fileStem, notesHeader } from '@/server/file-names';
import { type Context, answer, binary, readRequest } from '@/server/http';
import { runTask } from '@/server/pool';
import { revisionById, wireOf } from '@/server/revisions';

/**
 * The file: binary glTF 2.0, COLLADA 1.4.1, or Wavefront OBJ (at rest, or at a moment of a clip). Several
 * files come as a zip.
 */
export const GET = (request: Request, context: Context) =>
  answer(request, async () => {
    const { id, format, clip, time } = await readRequest(fileRequest, request, context);
    checkFormat(format);
    const { name, number } = await revisionById(database(), id);
    const stem = fileStem(name, number);
    const pose = clip === undefined ? undefined : { clip, time };
    const input = async () => ({ wire: await wireOf(database(), id), format, stem, pose });
    const { files, notes } = await runTask('export', input);
    const zip = () => zipSync(Object.fromEntries(files.map((file) => [file.name, file.bytes])));
    const one =
      files.length === 1
        ? files[0]
        : { name: `${stem}-${format}.zip`, type: 'application/zip', bytes: zip() };
    return binary(one.bytes, one.type, {
      'content-disposition': `attachment; filename="${one.name}"`,
      'x-bough-notes': notesHeader(notes),
    });
  });
