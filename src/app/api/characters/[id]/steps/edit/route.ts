import { editStep } from '@/routes/steps';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { type Context, answer, readRequest } from '@/server/http';
import { applyEdit, guardFresh } from '@/server/steps';

/** The body is a bundle of patches; `base` stands in the query. */
export const POST = (request: Request, context: Context) =>
  answer(request, async () => {
    const { id, base } = await readRequest(editStep.request, request, context);
    const character = await characterById(database(), id);
    guardFresh(character, base);
    const patches = new Uint8Array(await request.arrayBuffer());
    return Response.json(await applyEdit(database(), character, base, { patches }), { status: 201 });
  });
