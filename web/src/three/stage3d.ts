/** A three.js canvas that fits its element, draws on demand, and frees what it holds. */

import { Color, PerspectiveCamera, Scene, WebGLRenderer, type Object3D, type Mesh, type Material, type WebGLRendererParameters } from 'three';
import { NoGraphics } from '../common/noGraphics.ts';
import { store } from '../state/store.ts';

/** @throws NoGraphics where the browser gives none */
export function rendererFor(parameters?: WebGLRendererParameters): WebGLRenderer {
  try {
    return new WebGLRenderer(parameters);
  } catch {
    throw new NoGraphics();
  }
}

export class Stage3d {
  readonly renderer: WebGLRenderer;
  readonly scene = new Scene();
  readonly camera = new PerspectiveCamera(60, 1, 0.02, 400);
  private frame = 0;
  /** When it was drawn last, in milliseconds. */
  private drawn = -Infinity;
  private readonly resize: ResizeObserver;

  constructor(
    private readonly host: HTMLElement,
    background: string,
  ) {
    this.renderer = rendererFor({ antialias: true, preserveDrawingBuffer: true });
    this.renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2));
    this.scene.background = new Color(background);
    host.append(this.renderer.domElement);
    this.resize = new ResizeObserver(() => this.fit());
    this.resize.observe(host);
    this.fit();
  }

  private fit(): void {
    const { clientWidth, clientHeight } = this.host;
    if (clientWidth === 0 || clientHeight === 0) return;
    this.renderer.setSize(clientWidth, clientHeight, false);
    this.camera.aspect = clientWidth / clientHeight;
    this.camera.updateProjectionMatrix();
    this.draw();
  }

  /** Draws before the next frame, once however often it is asked for. */
  draw(): void {
    if (this.frame !== 0) return;
    this.frame = requestAnimationFrame((now) => {
      this.frame = 0;
      if (!this.due(this.drawn, now)) return this.draw();
      this.drawn = now;
      this.drawNow();
    });
  }

  /** Whether a picture may follow another one already, by what the user prefers. Both in milliseconds. */
  due(last: number, now: number): boolean {
    const most = Number(store.getState().preferences.values.frames);
    return most === 0 || now - last >= 1000 / most - 1;
  }

  /** Draws coarser where a frame takes longer than an eighth of a second: walking needs motion more than pixels. */
  keepFluent(frameSeconds: number): void {
    const ratio = this.renderer.getPixelRatio();
    if (frameSeconds > 0.125 && ratio > 0.35) this.renderer.setPixelRatio(ratio * 0.75);
  }

  drawNow(): void {
    this.renderer.render(this.scene, this.camera);
  }

  /** A PNG data URL of the present view in a given size. */
  picture(width: number, height: number): string {
    const { clientWidth, clientHeight } = this.host;
    const ratio = this.renderer.getPixelRatio();
    this.renderer.setPixelRatio(1);
    this.renderer.setSize(width, height, false);
    this.camera.aspect = width / height;
    this.camera.updateProjectionMatrix();
    this.drawNow();
    const url = this.renderer.domElement.toDataURL('image/png');
    this.renderer.setPixelRatio(ratio);
    this.renderer.setSize(clientWidth, clientHeight, false);
    this.camera.aspect = clientWidth / clientHeight;
    this.camera.updateProjectionMatrix();
    this.drawNow();
    return url;
  }

  dispose(): void {
    cancelAnimationFrame(this.frame);
    this.resize.disconnect();
    freeTree(this.scene);
    this.renderer.dispose();
    this.renderer.domElement.remove();
  }
}

/** Milliseconds in which what comes next has been drawn. */
const HELD_FOR = 400;

/** Frees geometries and materials below an object. Shared textures are their caches' to free. */
export function freeTree(root: Object3D): void {
  const materials: Material[] = [];
  root.traverse((child) => {
    const mesh = child as Mesh;
    mesh.geometry?.dispose();
    materials.push(...([] as Material[]).concat(mesh.material ?? []));
  });
  // A little later: what takes the place of the tree most often needs the very same shaders, and to compile them anew takes longer than
  // all the rest of a picture. By then it has been drawn once and holds them.
  if (materials.length > 0) setTimeout(() => materials.forEach((material) => material.dispose()), HELD_FOR);
}
