import { useRef } from 'react';
import { TextButton } from '../common/TextButton';

interface Props {
  readonly words: string;
  /** What a screen reader says of it. */
  readonly label: string;
  readonly onFile: (file: File) => void;
}

/** Asks for a file of the user's machine. */
export function FileButton({ words, label, onFile }: Props) {
  const picker = useRef<HTMLInputElement>(null);
  return (
    <>
      <TextButton aria-label={label} onClick={() => picker.current?.click()}>
        {words}
      </TextButton>
      <input
        ref={picker}
        type="file"
        hidden
        onChange={(event) => {
          const [file] = event.currentTarget.files ?? [];
          if (file) onFile(file);
          event.currentTarget.value = '';
        }}
      />
    </>
  );
}
