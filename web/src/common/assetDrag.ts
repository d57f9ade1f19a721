import type { DragEvent } from 'react';

/** The type under which a library entry is dragged. */
export const ASSET_DRAG = 'application/x-violet-asset';

export const draggedAsset = (event: DragEvent): string | null => event.dataTransfer.getData(ASSET_DRAG) || null;
