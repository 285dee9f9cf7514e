import { ModelFileError } from './model-file';

/** Runs a parser, and says what it stumbled over in a sentence. */
export function parsed<T>(fileName: string, format: string, parse: () => T): T {
  // What they tell the console is told to the person in a sentence, or is of no use to anybody.
  const { log, warn, error: complain } = console;
  console.log = console.warn = console.error = () => undefined;
  try {
    return parse();
  } catch (error) {
    if (error instanceof ModelFileError) throw error;
    const reason =
      error instanceof RangeError || error instanceof TypeError
        ? 'its parts do not fit together'
        : error instanceof Error
          ? error.message
          : '';
    throw new ModelFileError(`${fileName} could not be read as ${format}: ${reason.replace(/\.$/, '') || 'the parser gave up'}.`);
  } finally {
    Object.assign(console, { log, warn, error: complain });
  }
}
