import { object, string } from 'yup';
import { crosswalkFileSchema } from '@/core/rooms/crosswalk/file';
import { savedCrosswalk, saveCrosswalk } from '@/server/crosswalks';
import { database } from '@/server/database';
import { answer, bodyOf, checked } from '@/server/http';

const print = () =>
  string()
    .matches(/^[0-9a-f]{32}$/)
    .required();

/** The crosswalk saved for two skeletons, by their fingerprints. */
export async function GET(request: Request) {
  return answer(request, async () => {
    const q = new URL(request.url).searchParams;
    const { source, target } = checked(object({ source: print(), target: print() }), {
      source: q.get('source'),
      target: q.get('target'),
    });
    return { file: await savedCrosswalk(database(), source, target) };
  });
}

export async function PUT(request: Request) {
  return answer(request, async () => {
    const file = crosswalkFileSchema.validateSync(await bodyOf(request));
    await saveCrosswalk(
      database(),
      file.source.fingerprint,
      file.target.fingerprint,
      file.target.title,
      file,
    );
    return { saved: true };
  });
}
