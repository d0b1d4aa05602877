import { WRITTEN_FORMATS } from '@/core/formats';
import { listFormats } from '@/routes/formats';
import { handle } from '@/server/http';

export const dynamic = 'force-dynamic';

export const GET = handle(listFormats, async () => ({
  formats: WRITTEN_FORMATS.map(({ id, title, writer: { offer, about, isWhole } }) => ({
    id,
    title,
    offer,
    about,
    isWhole,
  })),
}));
