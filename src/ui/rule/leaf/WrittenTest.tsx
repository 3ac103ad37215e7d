import { useState } from 'react';
import { readWrittenTest } from '../../../core/rules/as-written';
import { wordsOfTest } from '../../../core/rules/nodes';
import type { LeafTest, TestTree } from '../../../core/rules/rule';
import { TextButton } from '../../common/TextButton';
import { AsWritten } from '../fields';

interface Props {
  readonly test: LeafTest;
  readonly onChange: (tree: TestTree) => void;
}

/** The same test as Sieve, for those who write it. */
export function WrittenTest({ test, onChange }: Props) {
  const [open, setOpen] = useState(false);
  const text = wordsOfTest(test);
  if (!open) return <TextButton onClick={() => setOpen(true)}>write it as Sieve</TextButton>;
  return <AsWritten key={text} label="The test as Sieve" text={text} read={readWrittenTest} onRead={onChange} />;
}
