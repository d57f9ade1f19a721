/** What one request may upload: 64 MiB per file, 50 files. */
export const UPLOAD_LIMITS = { fileSize: 64 << 20, files: 50, fields: 20 };
