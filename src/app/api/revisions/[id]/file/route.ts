import { number, object, string } from 'yup';
import { zipSync } from 'fflate';
import { WRITES, type WriteFormat } from '@/core/formats';
import { revisionById, wireOf } from '@/server/characters';
import { database } from '@/server/database';
import { answer, binary, checked, uuid } from '@/server/http';
import { onThread } from '@/server/pool';

const schema = object({
  id: uuid(),
  format: string<WriteFormat>()
    .oneOf([...WRITES])
    .default('glb'),
  clip: number().integer().min(0),
  time: number().min(0).default(0),
});

/** The file: binary glTF 2.0, COLLADA 1.4.1, or Wavefront OBJ (at rest, or at a moment of a clip). Several files come as a zip. */
export async function GET(request: Request, { params }: { params: Promise<{ id: string }> }) {
  return answer(request, async () => {
    const q = new URL(request.url).searchParams;
    const { id, format, clip, time } = checked(schema, {
      ...(await params),
      format: q.get('format') ?? undefined,
      clip: q.get('clip') ?? undefined,
      time: q.get('time') ?? undefined,
    });
    const { name, number: n } = await revisionById(database(), id);
    const stem = `${name.replace(/[^\w-]+/g, '-').toLowerCase()}-r${n}`;
    const { files, notes } = await onThread({
      task: 'export',
      wire: await wireOf(database(), id),
      format,
      stem,
      ...(clip === undefined ? {} : { pose: { clip, time } }),
    });
    const one =
      files.length === 1
        ? files[0]
        : {
            name: `${stem}-${format}.zip`,
            type: 'application/zip',
            bytes: zipSync(Object.fromEntries(files.map((f) => [f.name, f.bytes]))),
          };
    return binary(one.bytes, one.type, {
      'content-disposition': `attachment; filename="${one.name}"`,
      'x-bough-notes': encodeURIComponent(JSON.stringify(notes)),
    });
  });
}
