import { z } from 'zod';
import { treeShape } from './chain-shape';

const folderOfFate = z.string().trim().min(1, 'the folder has no name').max(500);
/** Where a message ends. */
export const destinationShape = z.object({
  folders: z.array(folderOfFate).max(100),
  redirects: z.array(z.string().trim().min(1, 'the address is empty').max(500)).max(100),
  rejected: z.boolean(),
});

/** An expectation, as requests and exported audits contain it. */
export const expectationShape = z.object({
  name: z.string().trim().min(1, 'the expectation has no name').max(200),
  tests: treeShape,
  must: z.discriminatedUnion('must', [
    z.object({ must: z.enum(['reach the inbox', 'not be dropped', 'be kept', 'not be sent outside']) }),
    z.object({ must: z.literal('end in'), folder: folderOfFate }),
    z.object({ must: z.literal('end only in'), destination: destinationShape }),
  ]),
});
