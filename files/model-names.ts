/** Kinds of model files that are read, by the ending of their names. */
export const MODEL_ENDINGS = ['ifc', 'glb', 'gltf', 'obj', 'dae', 'stl', 'ply', '3mf', 'dxf'] as const;
export type ModelEnding = (typeof MODEL_ENDINGS)[number];

export const endingOf = (name: string): string => (/\.([^./\\]+)$/.exec(name)?.[1] ?? '').toLowerCase();

export const isModelEnding = (ending: string): ending is ModelEnding => (MODEL_ENDINGS as readonly string[]).includes(ending);

/** Whether a file's name ends like that of a model. */
export const isModelName = (name: string): boolean => isModelEnding(endingOf(name)) || endingOf(name) === 'zip';
