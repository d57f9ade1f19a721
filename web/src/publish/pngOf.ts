/** A part of a picture as a PNG data URL, in its own pixels; all of it without `part`. */
export function cutPicture(image: HTMLImageElement, part?: { x: number; y: number; width: number; height: number }): string {
  const { x, y, width, height } = part ?? { x: 0, y: 0, width: image.naturalWidth, height: image.naturalHeight };
  const canvas = document.createElement('canvas');
  canvas.width = Math.max(1, Math.round(width));
  canvas.height = Math.max(1, Math.round(height));
  canvas.getContext('2d')!.drawImage(image, x, y, width, height, 0, 0, canvas.width, canvas.height);
  return canvas.toDataURL('image/png');
}

/** A picture of any form that the browser reads, as a PNG data URL. @throws Error with a sentence where it is none */
export async function pngOf(file: File): Promise<string> {
  const url = URL.createObjectURL(file);
  try {
    const image = new Image();
    image.src = url;
    await image.decode().catch(() => {
      throw new Error(`${file.name} is no picture that can be read. Take a PNG, JPEG or WebP.`);
    });
    return cutPicture(image);
  } finally {
    URL.revokeObjectURL(url);
  }
}
