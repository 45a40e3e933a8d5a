import { writeFileSync } from 'node:fs';
import { z } from 'zod';
import { caseFileSchema } from '../core/records';

// The JSON Schema of the case file, generated from the definition that the code checks with.
const schema = z.toJSONSchema(caseFileSchema);
writeFileSync('docs/case-file.schema.json', `${JSON.stringify(schema, null, 2)}\n`);
