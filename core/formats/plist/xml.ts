import { readMarkup } from '../../host';
import { PlistError, type PlistDict, type PlistValue } from './types';

/** Whether bytes begin like an XML property list. */
export function isXmlPlist(bytes: Uint8Array): boolean {
  return /<plist[\s>]/.test(new TextDecoder().decode(bytes.subarray(0, 600)));
}

type Container = { array: PlistValue[] } | { dict: PlistDict; key: string | null };

/** @throws PlistError */
export function parseXmlPlist(bytes: Uint8Array): PlistValue {
  const builder = new Builder();
  readMarkup(
    new TextDecoder().decode(bytes),
    {
      open: (name) => builder.begin(name),
      text: (text) => builder.text(text),
      close: (name) => builder.end(name)
    },
    { isXml: true }
  );
  if (builder.root === undefined) throw new PlistError(0, 'it holds no value');
  return builder.root;
}

class Builder {
  root: PlistValue | undefined;
  private readonly stack: Container[] = [];
  private pending = '';

  begin(name: string): void {
    this.pending = '';
    if (name === 'array') this.open({ array: [] });
    else if (name === 'dict') this.open({ dict: new Map(), key: null });
  }

  private open(container: Container): void {
    this.put('array' in container ? container.array : container.dict);
    this.stack.push(container);
  }

  text(text: string): void {
    this.pending += text;
  }

  end(name: string): void {
    if (name === 'array' || name === 'dict') this.stack.pop();
    else if (name === 'key') {
      const top = this.stack[this.stack.length - 1];
      if (top && 'dict' in top) top.key = this.pending;
    } else {
      const value = scalar(name, this.pending);
      if (value !== undefined) this.put(value);
    }
    this.pending = '';
  }

  private put(value: PlistValue): void {
    const top = this.stack[this.stack.length - 1];
    if (!top) this.root ??= value;
    else if ('array' in top) top.array.push(value);
    else if (top.key !== null) top.dict.set(top.key, value);
  }
}

function scalar(name: string, text: string): PlistValue | undefined {
  switch (name) {
    case 'string':
      return text;
    case 'integer':
      return /^\s*[-+]?\d+\s*$/.test(text) ? safeInteger(text) : null;
    case 'real':
      return Number(text);
    case 'true':
      return true;
    case 'false':
      return false;
    case 'date':
      return new Date(text.trim());
    case 'data':
      return fromBase64(text);
    default:
      return undefined;
  }
}

function safeInteger(text: string): number | bigint {
  const value = Number(text);
  return Number.isSafeInteger(value) ? value : BigInt(text.trim().replace(/^\+/, ''));
}

function fromBase64(text: string): Uint8Array {
  const clean = text.replace(/[^A-Za-z0-9+/]/g, '');
  return Uint8Array.from(
    atob(clean.slice(0, clean.length - (clean.length % 4 === 1 ? 1 : 0))),
    (c) => c.charCodeAt(0)
  );
}
