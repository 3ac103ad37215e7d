import { useWindowEvent } from '@mantine/hooks';
import { type RefObject, useEffect, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import classes from './DropAnywhere.module.css';
import { filesOf } from './useDrops';

interface Props {
  readonly onDrop: (files: readonly File[]) => void;
  /** Opens the browser's file chooser. */
  readonly openRef: RefObject<(() => void) | null>;
  readonly words: string;
}

/** Accepts files dropped anywhere on the page, or chosen. */
export function DropAnywhere({ onDrop, openRef, words }: Props) {
  const [isDragged, setDragged] = useState(false);
  const { getRootProps, getInputProps, open } = useDropzone({
    onDrop: (files) => {
      setDragged(false);
      onDrop(files);
    },
    onDragLeave: () => setDragged(false),
    getFilesFromEvent: filesOf,
    multiple: true,
    noClick: true,
    noKeyboard: true,
  });
  useEffect(() => {
    openRef.current = open;
  }, [open, openRef]);
  useWindowEvent('dragenter', ({ dataTransfer }) => {
    if (dataTransfer?.types.includes('Files')) setDragged(true);
  });
  // Visible only while something is dragged over the page.
  return (
    <div {...getRootProps({ className: classes.page, role: 'presentation' })} aria-hidden data-dragged={isDragged}>
      <input {...getInputProps()} />
      <span className={classes.words}>{words}</span>
    </div>
  );
}
