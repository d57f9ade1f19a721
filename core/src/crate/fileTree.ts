/** Files by path within the crate, with `/` between folders. */
export type FileTree = Map<string, Uint8Array>;
