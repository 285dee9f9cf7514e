/** Keeps the demo's conditions in a project in which nothing has been decided yet; `url`: of its server. */
export function keepSetting(url: string): Promise<void>;
