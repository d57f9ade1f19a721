/** COLLADA and FBX of growing size, in the forms that once took quadratic time: reading, and looking for pictures. */
import { readModel } from '@violet-crate/core/asset/mesh/read/readModel';
import { referencedBy } from '@violet-crate/core/asset/mesh/read/references';

const text = (content) => new TextEncoder().encode(content);

/** A wavy sheet of so many triangles. */
function sheet(triangles) {
  const side = Math.round(Math.sqrt(triangles / 2));
  const points = [];
  const corners = [];
  for (let y = 0; y <= side; y++) for (let x = 0; x <= side; x++) points.push(x, Math.sin(x * 0.3 + y * 0.2), y);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const a = y * (side + 1) + x;
      corners.push([a, a + side + 1, a + side + 2], [a, a + side + 2, a + 1]);
    }
  return { points, corners };
}

const dae = ({ points }, primitives) => `<?xml version="1.0"?><COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">
<asset><unit meter="1"/><up_axis>Y_UP</up_axis></asset>
<library_images><image id="i"><init_from>moss.png</init_from></image></library_images>
<library_geometries><geometry id="g"><mesh><source id="p"><float_array id="pa" count="${points.length}">${points.join(' ')}</float_array>
<technique_common><accessor source="#pa" count="${points.length / 3}" stride="3"><param name="X"/><param name="Y"/><param name="Z"/></accessor></technique_common></source>
<vertices id="v"><input semantic="POSITION" source="#p"/></vertices>${primitives}</mesh></geometry></library_geometries>
<library_visual_scenes><visual_scene id="s"><node><instance_geometry url="#g"/></node></visual_scene></library_visual_scenes>
<scene><instance_visual_scene url="#s"/></scene></COLLADA>`;
const INPUT = '<input semantic="VERTEX" source="#v" offset="0"/>';

const fbx = ({ points, corners }) => `; FBX 7.4.0 project file
FBXHeaderExtension: {
	FBXVersion: 7400
}
Objects: {
	Geometry: 1, "Geometry::g", "Mesh" {
		Vertices: *${points.length} {
			a: ${points.join(',')}
		}
		PolygonVertexIndex: *${corners.length * 3} {
			a: ${corners.map(([a, b, c]) => `${a},${b},${-c - 1}`).join(',')}
		}
	}
	Model: 2, "Model::m", "Mesh" {
		Version: 232
	}
}
Connections: {
	C: "OO",2,0
	C: "OO",1,2
}
`;

const FORMS = {
  'COLLADA, triangles': [
    'a.dae',
    (shape) => dae(shape, `<triangles count="${shape.corners.length}">${INPUT}<p>${shape.corners.flat().join(' ')}</p></triangles>`),
  ],
  'COLLADA, a polygon each': [
    'a.dae',
    (shape) =>
      dae(shape, `<polygons count="${shape.corners.length}">${INPUT}${shape.corners.map((p) => `<p>${p.join(' ')}</p>`).join('')}</polygons>`),
  ],
  'FBX, ASCII': ['a.fbx', fbx],
};

/** Growth from 25,000 to 100,000 triangles as the power of n, and the seconds that 100,000 take. */
export async function sceneFiles() {
  for (const [name, [file, write]] of Object.entries(FORMS)) {
    const times = [];
    for (const triangles of [25_000, 100_000]) {
      const bytes = text(write(sheet(triangles)));
      const runs = [];
      for (let i = 0; i < 3; i++) {
        const start = process.cpuUsage();
        referencedBy(file, bytes, new Map());
        await readModel(bytes, file);
        const { user, system } = process.cpuUsage(start);
        runs.push((user + system) / 1e6);
      }
      times.push(Math.min(...runs));
    }
    const power = Math.log(times[1] / times[0]) / Math.log(4);
    console.log(`${name}: 100,000 triangles in ${times[1].toFixed(2)} s (target 5), growth n^${power.toFixed(2)} (target 1.1)`);
  }
}
