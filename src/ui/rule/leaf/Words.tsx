import { TextInput } from '@mantine/core';

interface Props {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
}

/** A single text that a test asks with, such as the name of a folder. */
export function Words({ label, value, onChange }: Props) {
  return (
    <TextInput
      size="xs"
      aria-label={label}
      placeholder={label}
      value={value}
      onChange={(event) => onChange(event.currentTarget.value)}
    />
  );
}
