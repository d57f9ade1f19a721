/** The picture that the map view took of a crate, kept for its package. */

const key = (crateId: string): string => `violet-crate-picture-${crateId}`;

export const storedPicture = (crateId: string): string | null => localStorage.getItem(key(crateId));

export function storePicture(crateId: string, dataUrl: string | null): void {
  if (dataUrl === null) localStorage.removeItem(key(crateId));
  else localStorage.setItem(key(crateId), dataUrl);
}
