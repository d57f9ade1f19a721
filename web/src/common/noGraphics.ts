/** No 3D picture can be drawn; the message says why and what to do. It lies apart from three.js, which not every page loads. */
export class NoGraphics extends Error {
  constructor() {
    super('the browser gives no WebGL 2. Allow graphics acceleration in its settings, close other pages that draw in 3D, or use another browser.');
  }
}
