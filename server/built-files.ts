import type { Handler } from 'express';
import packedFiles from 'express-static-gzip';

/** Serves what was built into a folder, packed where the browser takes it so. A file that is gone by then is not found, and nothing worse. */
export function builtFiles(
  folder: string,
  how: { readonly immutable?: boolean; readonly maxAge: string },
): Handler {
  const files = packedFiles(folder, {
    enableBrotli: true,
    orderPreference: ['br', 'gz'],
    index: false,
    serveStatic: { ...how, index: false, redirect: false },
  });
  return (request, response, next) =>
    files(request, response, (problem?: unknown) => {
      // Whatever answers now is not packed.
      response.removeHeader('Content-Encoding');
      response.removeHeader('Content-Type');
      next(problem);
    });
}
