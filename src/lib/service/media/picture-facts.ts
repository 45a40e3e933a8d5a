import exifr from 'exifr';

/** What a picture's file says of how it was taken. */
export interface PictureFacts {
  camera: string | null;
  /** As the camera wrote it. */
  takenAt: string | null;
  place: { lat: number; lon: number } | null;
}

/** Reads what cameras write into pictures (CIPA DC-008); null where there is nothing of it. */
export async function factsOfPicture(bytes: Uint8Array): Promise<PictureFacts | null> {
  let told: Record<string, unknown> | undefined;
  try {
    told = (await exifr.parse(bytes, { gps: true, reviveValues: false })) as typeof told;
  } catch (error) {
    // Files of no known make are told by errors.
    if (error instanceof Error) return null;
    throw error;
  }
  if (!told) return null;
  const text = (key: string): string =>
    typeof told[key] === 'string' ? told[key].replace(/\0/g, '').trim() : '';
  const camera = [text('Make'), text('Model')].filter((part) => part !== '').join(' ');
  const { latitude, longitude } = told;
  const isPlaced = typeof latitude === 'number' && typeof longitude === 'number';
  return {
    camera: camera === '' ? null : camera,
    takenAt: dateOf(text('DateTimeOriginal') || text('CreateDate') || text('ModifyDate')),
    place: isPlaced && !Number.isNaN(latitude) ? { lat: latitude, lon: longitude } : null
  };
}

/** 2026:03:12 08:55:12 as 2026-03-12 08:55:12. */
function dateOf(text: string): string | null {
  const [, year, month, day, time] = /^(\d{4}):(\d{2}):(\d{2}) (\S+)/.exec(text) ?? [];
  return year === undefined ? null : `${year}-${month}-${day} ${time}`;
}
