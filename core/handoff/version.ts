/**
 * The version of delivered markup, style and script, after semver: within a major version old
 * markup works with a newer script. (1.0 had no ids, and no version in its files.)
 */
export const HANDOFF_VERSION = '1.1.0'
