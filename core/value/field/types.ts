/** `integer` and `decimal` are exact and travel as strings; `float` is an approximate double; `nested` is JSON text. */
export const fieldTypes = [
  'text',
  'integer',
  'decimal',
  'float',
  'boolean',
  'date',
  'instant',
  'nested',
] as const;
export type FieldType = (typeof fieldTypes)[number];

/** What a state means for the reader; each has a shape of its own, so that it survives without colour. */
export const tones = ['settled', 'moving', 'waiting', 'slipping', 'broken'] as const;
export type Tone = (typeof tones)[number];
