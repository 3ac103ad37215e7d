interface Props {
  /** A sentence of ours, with what users and their mail have written between quotation marks. */
  readonly children: string;
}

/**
 * Isolates what stands between quotation marks: names and keys that are written from right to left do not disturb the
 * order of the words around them.
 */
export const Quoted = ({ children }: Props) =>
  children.split(/(“[^“”]*”)/).map((part, at) => (at % 2 === 0 ? part : <bdi key={at}>{part}</bdi>));
