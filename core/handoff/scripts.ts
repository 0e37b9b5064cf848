/** The parts of the delivered script: each belongs to a type of layer (`runtime/parts/`). */
export const SCRIPT_PARTS = [
  'video',
  'slides',
  'controls',
  'words',
  'holds',
  'moving',
  'particlePointer',
  'particleLinks',
  'particles',
] as const
export type ScriptPart = (typeof SCRIPT_PARTS)[number]

/** The forms of the delivered script, by their file. */
export const SCRIPT_FILES = {
  classic: 'backdrop.js',
  module: 'backdrop.mjs',
  element: 'backdrop-element.mjs',
} as const
export type ScriptForm = keyof typeof SCRIPT_FILES

/** The built script: a base in each form, and the parts, each an expression. */
export interface DeliveredScripts {
  readonly forms: Readonly<Record<ScriptForm, string>>
  readonly parts: Readonly<Record<ScriptPart, string>>
  /** `backdrop.d.ts`: the types of both modules. */
  readonly types: string
}

/** What stands for the list of parts in a built base. */
export const PARTS_PLACE = '__TLN_PARTS__'

/** A form of the script with the parts that a backdrop uses, and no others. */
export function assembleScript(
  { forms, parts }: DeliveredScripts,
  form: ScriptForm,
  used: readonly ScriptPart[],
): string {
  // A function: in a text `$` would stand for something else.
  return forms[form].replace(PARTS_PLACE, () => `[${used.map((part) => parts[part]).join()}]`)
}
