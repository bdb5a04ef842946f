/*
 * Why tests failed, by what their runner wrote: one text for each, its name first. It is said once more at the end of a run, which is
 * what is kept of a long output.
 */
import { stripVTControlCharacters } from 'node:util';

/** So much that a message and the lines around the failure are in it. */
const mostLines = 25;
/** A counterexample may be a line of thousands; the runner has printed it whole. */
const mostCharacters = 500;

const textOf = (/** @type {string} */ name, /** @type {string[]} */ messages) => {
  const lines = stripVTControlCharacters(messages.join('\n')).split('\n').slice(0, mostLines);
  return [name, ...lines.map((line) => line.slice(0, mostCharacters))].join('\n  ');
};

/** @type {(report: any) => string[]} */
export const failuresOfUnits = ({ testResults }) =>
  testResults.flatMap((/** @type {any} */ { name, message, assertionResults }) => [
    ...(message ? [textOf(name, [message])] : []),
    ...assertionResults
      .filter((/** @type {any} */ { status }) => status === 'failed')
      .map((/** @type {any} */ test) => textOf(`${name}: ${test.fullName}`, test.failureMessages)),
  ]);

/** @type {(report: any) => string[]} */
export const failuresOfJourneys = ({ errors, suites }) => [
  ...errors.map((/** @type {any} */ { message }) => textOf('playwright', [message])),
  ...suites.flatMap((/** @type {any} */ { specs }) =>
    specs
      .filter((/** @type {any} */ { ok }) => !ok)
      .map((/** @type {any} */ { file, line, title, tests }) => {
        const runs = tests.flatMap((/** @type {any} */ { results }) => results);
        const messages = runs.flatMap((/** @type {any} */ run) =>
          run.errors.map((/** @type {any} */ error) => error.message),
        );
        return textOf(`${file}:${line}: ${title}`, messages);
      }),
  ),
];
