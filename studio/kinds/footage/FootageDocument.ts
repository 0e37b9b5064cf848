import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'

/** A document whose base is footage: what the rooms of footage are given. */
export type FootageDocument = DocumentOf<'footage'>
