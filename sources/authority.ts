import { z } from 'zod';
import { authorityProblem } from '#engine/outgoing/tls.ts';

/** Certificates (PEM) of an authority of one's own, which is trusted for this source. */
export const Authority = z
  .string()
  .max(100_000)
  .superRefine((text, context) => {
    const message = authorityProblem(text);
    if (message !== null) context.addIssue({ code: 'custom', message });
  });
