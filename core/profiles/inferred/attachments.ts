import type { SqlValue } from '../../sqlite';
import type { AttachmentField } from '../profile';
import { nameOf, type Context, type Fit } from './context';

const FILE_NAME = /(attach|file|media|path|uri|image)/i;

/** The files of messages: named in their own rows, or in a table whose rows refer to them. */
export function findAttachments(context: Context, fit: Fit): AttachmentField[] {
  return inOwnRows(context, fit) ?? inTable(context, fit) ?? [];
}

function inOwnRows({ fields }: Context, fit: Fit): AttachmentField[] | null {
  for (const field of fields) {
    if (field.hops > 0 || field.facts.filled < 1) continue;
    if (field.facts.texts < field.facts.filled || !mostlyFiles(field.values)) continue;
    // A name that says so, or values with folders in them: a word with a dot is no file.
    if (!FILE_NAME.test(field.name) && !mostlyPaths(field.values)) continue;
    const mime = fields.find(
      (c) => c.hops === 0 && /mime|content_?type/i.test(c.name) && c.facts.texts > 0
    );
    fit.reasons.push(`${nameOf(field)} names files`);
    const name = { match: field.expression, pattern: '([^/\\\\]+)$' };
    return [{ name, path: field.expression, ...(mime ? { mime: mime.expression } : {}) }];
  }
  return null;
}

/** A table whose rows refer to messages and name files. */
function inTable({ root, tables, links }: Context, fit: Fit): AttachmentField[] | null {
  for (const link of links) {
    if (link.to !== root.name) continue;
    const table = tables.get(link.from)!;
    const file = table.columns.find(
      (c) =>
        /(path|file|name|uri|url)/i.test(c.name) &&
        c.texts > 0 &&
        mostlyFiles([...c.frequent.keys()])
    );
    if (!file) continue;
    const mime = table.columns.find((c) => /mime|content_?type/i.test(c.name));
    const size = table.columns.find((c) => /size|bytes|length/i.test(c.name) && c.numbers > 0);
    fit.reasons.push(`table ${table.name} names the files of messages`);
    return [
      {
        rows: { table: table.name, match: link.column, from: { column: link.key } },
        name: { match: { column: file.name }, pattern: '([^/\\\\]+)$' },
        path: { column: file.name },
        ...(mime ? { mime: { column: mime.name } } : {}),
        ...(size ? { bytes: { column: size.name } } : {})
      }
    ];
  }
  return null;
}

function textsOf(values: SqlValue[]): string[] {
  return values.filter((v): v is string => typeof v === 'string' && v !== '');
}

function mostlyFiles(values: SqlValue[]): boolean {
  const texts = textsOf(values);
  const files = texts.filter((text) => /[^\s/\\]\.\w{2,5}$/.test(text) && !/\s{2}/.test(text));
  return texts.length > 0 && files.length >= texts.length * 0.6;
}

function mostlyPaths(values: SqlValue[]): boolean {
  const texts = textsOf(values);
  return (
    texts.length > 0 && texts.filter((text) => /[/\\]/.test(text)).length >= texts.length * 0.6
  );
}
