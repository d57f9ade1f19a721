import { useRef, useState } from 'react';
import { Modal } from 'react-bootstrap';
import ReactCrop, { centerCrop, convertToPixelCrop, makeAspectCrop, type PercentCrop } from 'react-image-crop';
import 'react-image-crop/dist/ReactCrop.css';
import { Icon } from '../common/Icon.tsx';
import { cutPicture } from './pngOf.ts';

interface Props {
  url: string;
  word: string;
  /** Pixels that the game's page shows; the part keeps this form. */
  wanted: { width: number; height: number };
  close(): void;
  /** @param png data URL */
  done(png: string): void;
}

/** Chooses a part of a picture with mouse or arrow keys. */
export function CropDialog({ url, word, wanted, close, done }: Props) {
  const image = useRef<HTMLImageElement>(null);
  const [part, setPart] = useState<PercentCrop>();
  const aspect = wanted.width / wanted.height;
  const size = image.current && part ? convertToPixelCrop(part, image.current.naturalWidth, image.current.naturalHeight) : null;
  const small = size !== null && size.width < wanted.width;
  return (
    <Modal show onHide={close} size="lg" aria-labelledby="crop-title">
      <Modal.Header closeButton>
        <h2 id="crop-title" className="m-0">
          Crop {word}
        </h2>
      </Modal.Header>
      <Modal.Body>
        <ReactCrop
          crop={part}
          aspect={aspect}
          minWidth={40}
          keepSelection
          className="d-block mx-auto"
          onChange={(_, percent) => setPart(percent)}
          ruleOfThirds
        >
          <img
            ref={image}
            src={url}
            alt={`All of ${word}`}
            className="w-100"
            onLoad={({ currentTarget: { naturalWidth, naturalHeight } }) =>
              setPart(centerCrop(makeAspectCrop({ unit: '%', width: 80 }, aspect, naturalWidth, naturalHeight), naturalWidth, naturalHeight))
            }
          />
        </ReactCrop>
        <p className={`small mb-0 ${small ? 'severity warning' : 'faint'}`} role="status">
          {size && `${Math.round(size.width)} × ${Math.round(size.height)} pixels`}
          {small && `; the game’s page shows ${wanted.width} × ${wanted.height}`}
        </p>
      </Modal.Body>
      <Modal.Footer>
        <button className="btn btn-quiet" onClick={close}>
          Leave it
        </button>
        <button className="btn btn-primary" disabled={!size || size.width < 1} onClick={() => done(cutPicture(image.current!, size!))}>
          <Icon name="crop" /> Crop
        </button>
      </Modal.Footer>
    </Modal>
  );
}
