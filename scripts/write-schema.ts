import { writeFileSync } from 'node:fs';
import { equalizerJsonSchema } from '@/core/formats';

/** `npm run schema`: writes docs/schema/ from the Zod schemas. */
writeFileSync('docs/schema/orvid-eq.schema.json', `${JSON.stringify(equalizerJsonSchema(), null, 2)}\n`);
