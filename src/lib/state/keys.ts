/** Stations of a case by the key that follows `g`. */
export const STATIONS: readonly {
  key: string;
  path: string;
  title: string;
  /** The station that it belongs to, where it is none of the header's own. */
  within?: string;
}[] = [
  { key: 'i', path: 'intake', title: 'Intake' },
  { key: 's', path: 'sources', title: 'Sources' },
  { key: 'b', path: 'bench', title: 'Bench', within: 'sources' },
  { key: 'r', path: 'read', title: 'Read' },
  { key: 'u', path: 'summary', title: 'Summary' },
  { key: 'p', path: 'produce', title: 'Produce' },
  { key: 'l', path: 'log', title: 'Log' }
];

export function stationOf(pathname: string): string {
  return STATIONS.find(({ path }) => pathname.endsWith(`/${path}`))?.title ?? '';
}

/** Whether a key press is meant for a field, and not for the page. */
export function isTyping(event: KeyboardEvent): boolean {
  const { target } = event;
  if (event.ctrlKey || event.metaKey || event.altKey) return true;
  if (!(target instanceof HTMLElement)) return false;
  // Letters mean nothing to a box that is ticked.
  if (target instanceof HTMLInputElement)
    return !/^(checkbox|radio|button|file)$/.test(target.type);
  return target.isContentEditable || /^(TEXTAREA|SELECT)$/.test(target.tagName);
}

interface Actions {
  go: (station: string) => void;
  list: () => void;
  search: () => void;
}

/** Keys that work in every view of a case. */
export class Keys {
  private awaiting = false;

  constructor(private readonly actions: Actions) {}

  press(event: KeyboardEvent): void {
    if (isTyping(event)) return;
    if (this.awaiting) {
      this.awaiting = false;
      const station = STATIONS.find(({ key }) => key === event.key);
      if (station) {
        event.preventDefault();
        event.stopImmediatePropagation();
        this.actions.go(station.path);
      }
    } else if (event.key === 'g') this.awaiting = true;
    else if (event.key === '?') this.actions.list();
    else if (event.key === '/') {
      event.preventDefault();
      this.actions.search();
    }
  }
}

/** What the key list shows. */
export const KEY_HELP: [string, string][] = [
  ['/', 'search this case'],
  ['j  k', 'next and previous line'],
  ['[  ]', 'previous and next correspondent'],
  ['n  shift + n', 'next and previous hit of a search'],
  ['x', 'select the message, or unselect it'],
  ['shift + x', 'select from the last selection to here'],
  ['m', 'show or hide the details'],
  ['p', 'show the evidence bytes'],
  ['1 – 5', 'show or hide a state'],
  ['g then i s r u p l', 'go to intake, sources, read, summary, produce, log'],
  ['?', 'this list']
];
