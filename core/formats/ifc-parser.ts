import { IfcAPI, LogLevel } from 'web-ifc';

/** The parser of IFC files, which says what it thinks of them to nobody. */
export async function startIfc(): Promise<IfcAPI> {
  const api = new IfcAPI();
  await api.Init();
  api.SetLogLevel(LogLevel.LOG_LEVEL_OFF);
  return api;
}
