/** The digest of the sources that the build was made from; set by Vite. */
declare const __TELON_BUILD__: string | undefined
