import type { Device } from '../../records';
import { asDict, asText, asTime, type PlistValue } from '../../plist';

/** What the property lists beside a backup say of the device. */
export function deviceFacts(info: PlistValue | null, manifest: PlistValue | null): Partial<Device> {
  const told = asDict(info ?? undefined);
  const own = asDict(manifest ?? undefined);
  const lockdown = asDict(own?.get('Lockdown'));
  const first = (...values: (string | null)[]): string | null =>
    values.find((v) => v !== null) ?? null;
  return {
    name: first(
      asText(told?.get('Device Name')),
      asText(told?.get('Display Name')),
      asText(lockdown?.get('DeviceName'))
    ),
    model: first(
      asText(told?.get('Product Name')),
      asText(told?.get('Product Type')),
      asText(lockdown?.get('ProductType'))
    ),
    system: first(asText(told?.get('Product Version')), asText(lockdown?.get('ProductVersion'))),
    serial: first(asText(told?.get('Serial Number')), asText(lockdown?.get('SerialNumber'))),
    phoneNumber: asText(told?.get('Phone Number')),
    backedUpAt: asTime(told?.get('Last Backup Date')) ?? asTime(own?.get('Date'))
  };
}
