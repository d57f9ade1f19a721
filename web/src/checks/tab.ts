/** Names this page to the server, so that it is not told of its own edits. */
export const TAB = Math.random().toString(36).slice(2);
