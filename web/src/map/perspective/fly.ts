/** Flying: drag to look about, keys to move, the wheel steps through speeds. */

import { Euler, Vector3, type PerspectiveCamera } from 'three';

const SPEEDS = [0.5, 1, 2, 4, 8, 16, 32];

export class FlyCamera {
  private step: number;
  private readonly held = new Set<string>();
  private last = 0;
  private readonly turn: number;
  private frame = 0;

  constructor(
    private readonly camera: PerspectiveCamera,
    private readonly element: HTMLElement,
    private readonly moved: (speed: number) => void,
    /** Speed to begin with, in m/s, and how far the view turns with a pixel of the pointer, in radians. */
    preferred: { speed: number; turn: number },
  ) {
    this.turn = preferred.turn;
    const off = (speed: number) => Math.abs(Math.log(speed / preferred.speed));
    this.step = SPEEDS.reduce((best, speed, i) => (off(speed) < off(SPEEDS[best]) ? i : best), 0);
    element.addEventListener('pointermove', this.onMove);
    element.addEventListener('wheel', this.onWheel, { passive: false });
    element.addEventListener('keydown', this.onKey);
    element.addEventListener('keyup', this.onKey);
    element.addEventListener('blur', this.onBlur);
  }

  /** Metres per second. */
  get speed(): number {
    return SPEEDS[this.step];
  }

  private onMove = (event: PointerEvent) => {
    if (event.buttons === 0) return;
    const angles = new Euler().setFromQuaternion(this.camera.quaternion, 'YXZ');
    angles.y -= event.movementX * this.turn;
    angles.x = Math.max(-1.5, Math.min(1.5, angles.x - event.movementY * this.turn));
    angles.z = 0;
    this.camera.quaternion.setFromEuler(angles);
    this.moved(this.speed);
  };

  private onWheel = (event: WheelEvent) => {
    event.preventDefault();
    this.step = Math.max(0, Math.min(SPEEDS.length - 1, this.step + (event.deltaY < 0 ? 1 : -1)));
    this.moved(this.speed);
  };

  private onKey = (event: KeyboardEvent) => {
    const key = event.code;
    if (!['KeyW', 'KeyA', 'KeyS', 'KeyD', 'KeyR', 'KeyF', 'ArrowUp', 'ArrowDown', 'ArrowLeft', 'ArrowRight'].includes(key)) return;
    // These keys mean other things elsewhere in the workspace.
    event.stopPropagation();
    event.preventDefault();
    if (event.type === 'keydown') this.held.add(key);
    else this.held.delete(key);
    if (this.held.size > 0 && this.frame === 0) {
      this.last = performance.now();
      this.frame = requestAnimationFrame(this.onFrame);
    }
  };

  private onBlur = () => this.held.clear();

  private onFrame = (now: number) => {
    this.frame = 0;
    if (this.held.size === 0) return;
    const seconds = Math.min(0.1, (now - this.last) / 1000);
    this.last = now;
    const is = (...keys: string[]) => keys.some((key) => this.held.has(key));
    const way = new Vector3(
      Number(is('KeyD', 'ArrowRight')) - Number(is('KeyA', 'ArrowLeft')),
      Number(is('KeyR')) - Number(is('KeyF')),
      Number(is('KeyS', 'ArrowDown')) - Number(is('KeyW', 'ArrowUp')),
    );
    this.camera.position.addScaledVector(way.applyQuaternion(this.camera.quaternion), this.speed * seconds);
    this.moved(this.speed);
    this.frame = requestAnimationFrame(this.onFrame);
  };

  dispose(): void {
    cancelAnimationFrame(this.frame);
    this.element.removeEventListener('pointermove', this.onMove);
    this.element.removeEventListener('wheel', this.onWheel);
    this.element.removeEventListener('keydown', this.onKey);
    this.element.removeEventListener('keyup', this.onKey);
    this.element.removeEventListener('blur', this.onBlur);
  }
}
