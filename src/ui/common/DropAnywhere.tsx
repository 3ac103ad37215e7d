import { Dropzone } from '@mantine/dropzone';
import type { RefObject } from 'react';
import classes from './DropAnywhere.module.css';
import { filesOf } from './dropped';

interface Props {
  readonly onDrop: (files: readonly File[]) => void;
  /** Opens the choice of files of the browser. */
  readonly openRef: RefObject<(() => void) | null>;
  readonly words: string;
}

/** Takes files that are dropped anywhere on the page, or chosen. */
export function DropAnywhere({ onDrop, openRef, words }: Props) {
  return (
    <Dropzone.FullScreen
      openRef={openRef}
      onDrop={onDrop}
      getFilesFromEvent={filesOf}
      activateOnClick={false}
      activateOnKeyboard={false}
      multiple
      // It is there for the pointer alone, and unseen while nothing is drawn over the page.
      withinPortal={false}
      aria-hidden
      classNames={{ root: classes.page, inner: classes.words }}
    >
      {words}
    </Dropzone.FullScreen>
  );
}
