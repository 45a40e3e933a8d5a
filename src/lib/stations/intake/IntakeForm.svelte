<script lang="ts">
  import { DELETION_WAYS, LOST_KINDS, type DeletionWay, type LostKind } from '$core/plan';
  import type { IntakeAnswers } from '$lib/state/intake.svelte';
  import Choices from '../../ui/Choices.svelte';
  import DayField from '../../ui/DayField.svelte';

  interface Props {
    answers: IntakeAnswers;
    onchange: (told: Partial<IntakeAnswers>, what: string) => void;
  }
  const { answers, onchange }: Props = $props();

  const KINDS = LOST_KINDS.map((kind): [LostKind, string] => [kind, kind]);
  const WAYS = DELETION_WAYS.map((way): [DeletionWay, string] => [
    way,
    way === 'unknown' ? 'not known' : way.replaceAll('-', ' ')
  ]);
  const YES_NO = [
    ['yes', 'yes'],
    ['no', 'no'],
    ['unknown', 'not known']
  ] as const;
  const KEEPS = [
    ['0', 'for ever'],
    ['365', '1 year'],
    ['30', '30 days'],
    ['unknown', 'not known']
  ] as const;
  const HOLDS = [
    ['30', '30 days'],
    ['40', '40 days'],
    ['0', 'none'],
    ['unknown', 'not known']
  ] as const;

  const lost = $derived(answers.lost ?? {});
  const deleted = $derived(answers.deleted ?? {});

  type Answer = 'yes' | 'no' | 'unknown';
  function said(value: boolean | null | undefined): Answer[] {
    return [value === true ? 'yes' : value === false ? 'no' : 'unknown'];
  }
  function meant([value]: Answer[]): boolean | null {
    return value === 'yes' ? true : value === 'no' ? false : null;
  }
  function ofLost(told: object, what: string): void {
    onchange({ lost: { ...lost, ...told } }, what);
  }
  function ofDeletion(told: object, what: string): void {
    onchange({ deleted: { ...deleted, ...told } }, what);
  }
</script>

<h2>What was lost</h2>
<div class="grid">
  <span>Kinds</span>
  <Choices
    label="Kinds that were lost"
    options={KINDS}
    value={lost.kinds ?? []}
    many
    onchange={(kinds) => ofLost({ kinds }, 'kinds')}
  />
  <label for="intake-app">App</label>
  <input
    id="intake-app"
    class="small-field"
    type="text"
    maxlength="200"
    placeholder="phone messages"
    value={lost.app ?? ''}
    oninput={(event) => ofLost({ app: event.currentTarget.value || null }, 'app')}
  />
  <label for="intake-with">With</label>
  <input
    id="intake-with"
    class="small-field"
    type="text"
    placeholder="names or numbers, separated by commas"
    value={(lost.with ?? []).join(', ')}
    onchange={(event) =>
      ofLost(
        {
          with: event.currentTarget.value
            .split(',')
            .map((name) => name.trim())
            .filter((name) => name !== '')
        },
        'with'
      )}
  />
  <label for="intake-sent">Sent from</label>
  <DayField
    id="intake-sent"
    label="First day on which it was sent"
    value={lost.sentFrom ?? null}
    onchange={(day) => ofLost({ sentFrom: day }, 'sent from')}
  />
  <label for="intake-sent-to">to</label>
  <DayField
    id="intake-sent-to"
    label="Last day on which it was sent"
    value={lost.sentTo ?? null}
    onchange={(day) => ofLost({ sentTo: day }, 'sent to')}
  />
  <span>Cloud only</span>
  <Choices
    label="The app keeps its messages only in its own cloud"
    options={YES_NO}
    value={said(lost.cloudOnlyApp)}
    onchange={(value) => ofLost({ cloudOnlyApp: meant(value) }, 'cloud only')}
  />
</div>

<h2>How it went</h2>
<div class="grid">
  <label for="intake-deleted">Deleted from</label>
  <DayField
    id="intake-deleted"
    label="First day of the deletion"
    value={deleted.from ?? null}
    onchange={(day) => ofDeletion({ from: day }, 'deleted from')}
  />
  <label for="intake-deleted-to">to</label>
  <DayField
    id="intake-deleted-to"
    label="Last day of the deletion"
    value={deleted.to ?? null}
    onchange={(day) => ofDeletion({ to: day }, 'deleted to')}
  />
  <span>By</span>
  <Choices
    label="How it was deleted"
    options={WAYS}
    value={[deleted.how ?? 'unknown']}
    onchange={([how]) => ofDeletion({ how: how ?? 'unknown' }, 'how')}
  />
  <label for="intake-noticed">Noticed</label>
  <DayField
    id="intake-noticed"
    label="Day on which it was noticed"
    value={answers.noticed ?? null}
    onchange={(day) => onchange({ noticed: day }, 'noticed')}
  />
  <span>Phone used since</span>
  <Choices
    label="The phone was used since"
    options={YES_NO}
    value={said(answers.phoneUsedSince)}
    onchange={(value) => onchange({ phoneUsedSince: meant(value) }, 'phone used since')}
  />
  <span>Keeps messages</span>
  <Choices
    label="For how long the app keeps messages"
    options={KEEPS}
    value={[String(answers.keepDays ?? 'unknown') as '0']}
    onchange={([value]) =>
      onchange(
        { keepDays: value === undefined || value === 'unknown' ? null : Number(value) },
        'keep setting'
      )}
  />
  <span>Holds deleted</span>
  <Choices
    label="For how long the app holds what was deleted"
    options={HOLDS}
    value={[String(answers.holdingDays ?? 'unknown') as '0']}
    onchange={([value]) =>
      onchange(
        { holdingDays: value === undefined || value === 'unknown' ? null : Number(value) },
        'holding days'
      )}
  />
  <span>Synced</span>
  <Choices
    label="Messages are synced with other devices"
    options={YES_NO}
    value={said(answers.syncOn)}
    onchange={(value) => onchange({ syncOn: meant(value) }, 'sync')}
  />
</div>

<style>
  h2 {
    font-size: 15px;
    margin: 16px 0 6px;
  }
  .grid {
    display: grid;
    grid-template-columns: 112px minmax(0, 1fr);
    gap: 7px 10px;
    align-items: baseline;
  }
  .grid > span,
  label {
    color: var(--soft);
    font-size: 13px;
  }
</style>
