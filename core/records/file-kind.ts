/** What people call a file by what it shows. */
export type FileKind = 'picture' | 'video' | 'sound' | 'document' | 'contact' | 'other';

const DOCUMENT =
  /^(text\/|application\/(pdf|rtf|msword|json|vnd\.(openxml|oasis|ms-)|x-cfb))|\.(pdf|docx?|xlsx?|pptx?|odt|ods|odp|rtf|txt|md|csv|ics)$/i;

/** The kind of a file, by its type and its name. */
export function fileKindOf({ mime, name }: { mime: string | null; name: string | null }): FileKind {
  const type = mime ?? '';
  if (type.startsWith('image/')) return 'picture';
  if (type.startsWith('video/')) return 'video';
  if (type.startsWith('audio/')) return 'sound';
  if (/vcard/i.test(type) || /\.vcf$/i.test(name ?? '')) return 'contact';
  if (DOCUMENT.test(type) || DOCUMENT.test(name ?? '')) return 'document';
  return 'other';
}
