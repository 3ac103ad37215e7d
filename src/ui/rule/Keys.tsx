import { FileButton, TagsInput, Textarea } from '@mantine/core';
import { tell } from '../common/api';
import { TextButton } from '../common/TextButton';
import classes from './RuleDesk.module.css';

interface Props {
  readonly label: string;
  readonly keys: readonly string[];
  readonly offers?: readonly string[];
  readonly placeholder?: string;
  readonly onChange: (keys: string[]) => void;
}

/** More keys are edited as lines, since this many chips can neither be read nor drawn at once. */
const MOST_CHIPS = 60;
/** The separators of a pasted column or list. */
const BREAKS = ['\n', '\r', '\t', ';'];
/** Unquoted commas separate addresses, but may be part of a subject. */
const ADDRESS_BREAKS = [...BREAKS, ','];

/** The keys of a test: chips, pasted from a column, or read from a file with one a line. */
export function Keys({ label, keys, offers = [], placeholder = 'look for …', onChange }: Props) {
  const read = async (file: File | null) => {
    if (!file) return;
    try {
      const found = linesOf(await file.text());
      onChange([...new Set([...keys, ...found])]);
    } catch {
      tell(new Error(`${file.name} could not be read.`));
    }
  };
  return (
    <div className={classes.keys} data-keys>
      {keys.length > MOST_CHIPS ? (
        <Textarea
          size="xs"
          aria-label={label}
          classNames={{ input: 'mono' }}
          value={keys.join('\n')}
          rows={8}
          spellCheck={false}
          onChange={(event) => onChange(event.currentTarget.value.split('\n'))}
          onBlur={() => onChange([...new Set(keys.filter((key) => key !== ''))])}
        />
      ) : (
        <TagsInput
          size="xs"
          aria-label={label}
          placeholder={keys.length === 0 ? placeholder : ''}
          value={[...keys]}
          data={[...offers]}
          limit={8}
          splitChars={label === 'addresses' ? ADDRESS_BREAKS : BREAKS}
          acceptValueOnBlur
          onChange={onChange}
        />
      )}
      <FileButton onChange={read} accept="text/plain,text/csv,.txt,.csv">
        {({ onClick }) => (
          <TextButton onClick={onClick} aria-label={`Read ${label} from a file`}>
            from a file
          </TextButton>
        )}
      </FileButton>
    </div>
  );
}

/** The first cell of each line of a text, or of a table with commas or tabs. */
function linesOf(text: string): string[] {
  const cells = text.split(/\r?\n/).map((line) => /^\s*(?:"((?:[^"]|"")*)"|([^,;\t]*))/.exec(line));
  return cells
    .map((cell) => (cell?.[1]?.replaceAll('""', '"') ?? cell?.[2] ?? '').trim())
    .filter((cell) => cell !== '');
}
