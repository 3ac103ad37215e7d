'use client';

import { Radio, Select, TextInput } from '@mantine/core';
import { useState } from 'react';
import { EXAMPLE_WORDS } from '../../core/flow/profile-example';
import { contradictionsIn, type Profile, SIEVE } from '../../core/rules/profile';
import { OWN_TITLE, PROFILE_PARTS, profileWords } from '../../core/rules/profile-words';
import { isSame } from '../../core/rules/same';
import { keysOf } from '../../core/text/lookup';
import type { ProfileChoice, ProfilesView } from '../../server/gather/profile-view';
import { ChangePreview } from '../common/ChangePreview';
import { formatPart } from '../common/format';
import classes from './Program.module.css';

const OWN = 'own';

/** How the program that the rules come from runs them: one choice, with a worked example and what stored mail says of it. */
export function Program({ auditId, view }: { auditId: string; view: ProfilesView }) {
  const { current, currentId, unfit, choices } = view;
  const [chosen, choose] = useState(currentId);
  const [own, setOwn] = useState<Profile>(current ?? SIEVE);
  const [bin, setBin] = useState(current?.bin ?? SIEVE.bin);
  const ready = choices.find(({ id }) => id === chosen);
  const wanted = { ...(chosen === OWN ? own : (ready?.profile ?? SIEVE)), bin };
  const faults = contradictionsIn(wanted);
  const to = isSame({ ...wanted, bin: SIEVE.bin }, SIEVE) ? null : wanted;
  const best = bestOf(choices);
  return (
    <div className={classes.page}>
      <h1 className={classes.title}>How does the program run your rules?</h1>
      <p className={classes.soft}>
        A mail server with Sieve runs them one after another. Other programs do it in their own way, and your rules are
        audited as that program runs them.
      </p>
      {unfit.length > 0 && (
        <p className={classes.fault}>
          These rules can only run as on a mail server with Sieve: {unfit[0]}
          {unfit.length > 1 && ` (and ${unfit.length - 1} more)`}
        </p>
      )}
      <p className={classes.example}>{EXAMPLE_WORDS}</p>
      <Radio.Group value={chosen} onChange={choose} aria-label="How the rules run">
        <div className={classes.choices}>
          {choices.map((choice) => (
            <Choice
              key={choice.id}
              choice={choice}
              isBest={choice.id === best && best !== currentId}
              isCurrent={choice.id === currentId}
              isPossible={unfit.length === 0 || choice.id === 'sieve'}
            />
          ))}
          {!choices.some(({ id }) => id === OWN) && (
            <Radio value={OWN} label={OWN_TITLE} disabled={unfit.length > 0} className={classes.choice} />
          )}
        </div>
      </Radio.Group>
      {chosen === OWN && <Parts profile={own} onChange={setOwn} />}
      {wanted.delete === 'bin' && (
        <TextInput
          size="xs"
          label="The folder that is the bin"
          value={bin}
          className={classes.bin}
          onChange={({ currentTarget }) => setBin(currentTarget.value)}
        />
      )}
      {chosen === OWN && <p className={classes.soft}>{profileWords(wanted)}</p>}
      {faults.map((fault) => (
        <p key={fault} className={classes.fault}>
          {fault}
        </p>
      ))}
      {faults.length === 0 && !isSame(to, current) && (
        <ChangePreview
          key={JSON.stringify(to)}
          auditId={auditId}
          edits={[{ kind: 'profile', from: current, to }]}
          why=""
          onDone={() => choose(currentId)}
          onMade={() => {}}
        />
      )}
    </div>
  );
}

interface ChoiceProps {
  readonly choice: ProfileChoice;
  readonly isBest: boolean;
  readonly isCurrent: boolean;
  readonly isPossible: boolean;
}

function Choice({ choice, isBest, isCurrent, isPossible }: ChoiceProps) {
  const { id, title, words, example, agreement } = choice;
  const places = example.map((folder) => (folder === 'INBOX' ? 'the inbox' : `“${folder}”`));
  const ends = places.length === 0 ? 'is gone' : `ends in ${places.join(' and ')}`;
  return (
    <Radio
      value={id}
      disabled={!isPossible}
      className={classes.choice}
      classNames={{ description: classes.words }}
      label={
        <>
          <strong>{title}</strong>
          {isCurrent && <span className={classes.soft}> (as your rules run now)</span>}
        </>
      }
      description={
        <>
          {words} <span className={classes.ends}>The invoice {ends}.</span>
          {agreement && agreement.of > 0 && (
            <>
              {' '}
              Of the stored messages that rules act on, {formatPart(agreement.lying, agreement.of)} lie where this puts
              them{isBest && ', more than in any other way'}.
            </>
          )}
        </>
      }
    />
  );
}

/** The choice that explains best where stored mail lies; null if none says more than another. */
function bestOf(choices: readonly ProfileChoice[]): string | null {
  const known = choices.filter(({ agreement }) => agreement !== null && agreement.of > 0);
  const lying = ({ agreement }: ProfileChoice) => agreement?.lying ?? 0;
  const [best, next] = known.toSorted((a, b) => lying(b) - lying(a));
  return best && next && lying(best) > lying(next) ? best.id : null;
}

const PART_NAMES = { order: 'Order', ending: 'Which rules act', places: 'Folders', inbox: 'The inbox' } as const;

function Parts({ profile, onChange }: { profile: Profile; onChange: (profile: Profile) => void }) {
  return (
    <div className={classes.parts}>
      {keysOf(PROFILE_PARTS).map((part) => (
        <Select
          key={part}
          size="xs"
          label={PART_NAMES[part]}
          value={profile[part]}
          data={Object.entries(PROFILE_PARTS[part]).map(([value, label]) => ({ value, label }))}
          allowDeselect={false}
          onChange={(value) => value !== null && onChange({ ...profile, [part]: value })}
        />
      ))}
      <Select
        size="xs"
        label="Deleting"
        value={`${profile.delete}${profile.deleteWins ? ' wins' : ''}`}
        data={[
          { value: 'bin', label: 'Deleted mail goes to the bin.' },
          { value: 'bin wins', label: 'Deleted mail goes to the bin, even if another rule files it.' },
          { value: 'end', label: 'Deleted mail is gone.' },
          { value: 'end wins', label: 'Deleted mail is gone, even if another rule files it.' },
        ]}
        allowDeselect={false}
        onChange={(value) =>
          value !== null &&
          onChange({
            ...profile,
            delete: value.startsWith('bin') ? 'bin' : 'end',
            deleteWins: value.endsWith('wins'),
          })
        }
      />
    </div>
  );
}
