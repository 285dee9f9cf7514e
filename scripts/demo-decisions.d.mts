/** Sends commands one after the other, if the project's entries are as wanted; `url`: of its server. */
export function decide(url: string, commands: readonly object[], isWanted: (entries: [string, unknown][]) => boolean): Promise<void>;
