/** Files of other exporters in which something is missing, empty or leads nowhere: the geometry that is there comes in, and what does not is named. */

import { describe, expect, it } from '@jest/globals';
import { DOMParser, XMLSerializer } from '@xmldom/xmldom';
import { readModel } from './readModel.ts';

const src = (id: string, v: number[], p: string[]) =>
  `<source id="${id}"><float_array id="${id}-a" count="${v.length}">${v.join(' ')}</float_array><technique_common><accessor source="#${id}-a" count="${v.length / p.length}" stride="${p.length}">${p.map((n) => `<param name="${n}" type="float"/>`).join('')}</accessor></technique_common></source>`;
const rich = `<?xml version="1.0"?><COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1"><asset><contributor><author>a</author></contributor><created>2009</created><unit meter="1" name="meter"/><up_axis>Z_UP</up_axis></asset>
<library_images><image id="im"><init_from>x.png</init_from></image></library_images>
<library_effects><effect id="fx"><profile_COMMON><newparam sid="surf"><surface type="2D"><init_from>im</init_from></surface></newparam><newparam sid="samp"><sampler2D><source>surf</source></sampler2D></newparam><technique sid="common"><phong><emission><color>0 0 0 1</color></emission><diffuse><texture texture="samp" texcoord="UV"/></diffuse><specular><color>1 1 1 1</color></specular><shininess><float>20</float></shininess><transparency><float>1</float></transparency></phong></technique></profile_COMMON></effect></library_effects>
<library_materials><material id="mat"><instance_effect url="#fx"/></material></library_materials>
<library_lights><light id="li"><technique_common><point><color>1 1 1</color><quadratic_attenuation>0.1</quadratic_attenuation></point></technique_common></light></library_lights>
<library_cameras><camera id="ca"><optics><technique_common><perspective><yfov>40</yfov><aspect_ratio>1</aspect_ratio><znear>0.1</znear><zfar>10</zfar></perspective></technique_common></optics></camera></library_cameras>
<library_geometries><geometry id="g"><mesh>${src('pos', [0, 0, 0, 1, 0, 0, 0, 1, 0], ['X', 'Y', 'Z'])}${src('nor', [0, 0, 1], ['X', 'Y', 'Z'])}${src('uv', [0, 0, 1, 0, 0, 1], ['S', 'T'])}<vertices id="v"><input semantic="POSITION" source="#pos"/></vertices><triangles count="1" material="m"><input semantic="VERTEX" source="#v" offset="0"/><input semantic="NORMAL" source="#nor" offset="1"/><input semantic="TEXCOORD" source="#uv" offset="2" set="0"/><p>0 0 0 1 0 1 2 0 2</p></triangles></mesh></geometry></library_geometries>
<library_controllers><controller id="co"><skin source="#g"><bind_shape_matrix>1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 1</bind_shape_matrix><source id="jo"><Name_array id="jo-a" count="1">bone</Name_array><technique_common><accessor source="#jo-a" count="1" stride="1"><param name="JOINT" type="name"/></accessor></technique_common></source><source id="ib"><float_array id="ib-a" count="16">1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 1</float_array><technique_common><accessor source="#ib-a" count="1" stride="16"><param name="T" type="float4x4"/></accessor></technique_common></source><source id="we"><float_array id="we-a" count="1">1</float_array><technique_common><accessor source="#we-a" count="1" stride="1"><param name="W" type="float"/></accessor></technique_common></source><joints><input semantic="JOINT" source="#jo"/><input semantic="INV_BIND_MATRIX" source="#ib"/></joints><vertex_weights count="3"><input semantic="JOINT" source="#jo" offset="0"/><input semantic="WEIGHT" source="#we" offset="1"/><vcount>1 1 1</vcount><v>0 0 0 0 0 0</v></vertex_weights></skin></controller></library_controllers>
<library_animations><animation id="an">${src('an-in', [0, 1], ['TIME'])}${src('an-out', [0, 1], ['X'])}<source id="an-h"><Name_array id="an-h-a" count="2">LINEAR LINEAR</Name_array><technique_common><accessor source="#an-h-a" count="2" stride="1"><param name="INTERPOLATION" type="name"/></accessor></technique_common></source><sampler id="an-s"><input semantic="INPUT" source="#an-in"/><input semantic="OUTPUT" source="#an-out"/><input semantic="INTERPOLATION" source="#an-h"/></sampler><channel source="#an-s" target="n/move.X"/></animation></library_animations>
<library_nodes><node id="lib"><extra><technique profile="x"/></extra></node><node id="empty"/></library_nodes>
<library_visual_scenes><visual_scene id="s"><node id="n"><translate sid="move">0 0 0</translate><instance_geometry url="#g"><bind_material><technique_common><instance_material symbol="m" target="#mat"><bind_vertex_input semantic="UV" input_semantic="TEXCOORD" input_set="0"/></instance_material></technique_common></bind_material></instance_geometry></node><node id="b" sid="bone" type="JOINT"><matrix>1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 1</matrix></node><node id="sk"><instance_controller url="#co"><skeleton>#b</skeleton><bind_material><technique_common><instance_material symbol="m" target="#mat"/></technique_common></bind_material></instance_controller></node><node id="l"><instance_light url="#li"/></node><node id="c"><instance_camera url="#ca"/></node><node id="i1"><instance_node url="#lib"/></node><node id="i2"><instance_node url="#empty"/></node></visual_scene></library_visual_scenes><scene><instance_visual_scene url="#s"/></scene></COLLADA>`;

const encode = (text: string) => new TextEncoder().encode(text);
/** Without these there is no geometry in the scene. */
const NEEDED = new Set(['COLLADA', 'library_geometries', 'library_visual_scenes', 'visual_scene']);

describe('COLLADA', () => {
  it('with all parts has its two meshes, and leaves nothing out', async () => {
    const model = await readModel(encode(rich), 'a.dae', new Map());
    expect([model.parts.length, model.leftOut]).toEqual([2, []]);
  });

  it.each([
    ['is missing', (element: Element) => void element.parentNode?.removeChild(element)],
    [
      'is empty',
      (element: Element) => {
        while (element.firstChild) element.removeChild(element.firstChild);
      },
    ],
    ['leads nowhere', (element: Element) => [...element.attributes].forEach(({ name }) => element.setAttribute(name, '#nothing'))],
  ])('any part outside of its meshes that %s leaves the geometry', async (_, change) => {
    const refused: string[] = [];
    let tried = 0;
    for (let k = 0; ; k++) {
      const document = new DOMParser({ onError: () => {} }).parseFromString(rich, 'text/xml');
      const element = [...document.getElementsByTagName('*')][k] as unknown as Element | undefined;
      if (!element) break;
      let inMesh = false;
      for (let up: Node | null = element; up; up = up.parentNode) inMesh ||= up.nodeName === 'geometry';
      if (inMesh || NEEDED.has(element.nodeName)) continue;
      change(element);
      tried++;
      try {
        const { parts } = await readModel(encode(new XMLSerializer().serializeToString(document)), 'a.dae', new Map());
        if (parts.length === 0) refused.push(`${element.nodeName}: no parts`);
      } catch (error) {
        refused.push(`${element.nodeName}: ${(error as Error).message}`);
      }
    }
    expect(tried).toBeGreaterThan(100);
    expect(refused).toEqual([]);
  });
});

const FBX = `; FBX 7.4.0 project file
FBXHeaderExtension:  {
	FBXHeaderVersion: 1003
	FBXVersion: 7400
}
GlobalSettings:  {
	Version: 1000
	Properties70:  {
		P: "UpAxis", "int", "Integer", "",1
	}
}
Objects:  {
	Geometry: 100, "Geometry::box", "Mesh" {
		Vertices: *9 {
			a: 0,0,0,1,0,0,0,1,0
		}
		PolygonVertexIndex: *3 {
			a: 0,1,-3
		}
		LayerElementNormal: 0 {
			MappingInformationType: "ByPolygonVertex"
			ReferenceInformationType: "Direct"
			Normals: *9 {
				a: 0,0,1,0,0,1,0,0,1
			}
		}
		LayerElementUV: 0 {
			MappingInformationType: "ByPolygonVertex"
			ReferenceInformationType: "IndexToDirect"
			UV: *6 {
				a: 0,0,1,0,0,1
			}
			UVIndex: *3 {
				a: 0,1,2
			}
		}
		LayerElementMaterial: 0 {
			MappingInformationType: "AllSame"
			ReferenceInformationType: "IndexToDirect"
			Materials: *1 {
				a: 0
			}
		}
	}
	Model: 200, "Model::box", "Mesh" {
		Version: 232
		Properties70:  {
			P: "Lcl Translation", "Lcl Translation", "", "A",0,0,0
		}
	}
	Material: 300, "Material::m", "" {
		ShadingModel: "phong"
		Properties70:  {
			P: "DiffuseColor", "Color", "", "A",1,0,0
		}
	}
	Texture: 400, "Texture::t", "" {
		FileName: "t.png"
		RelativeFilename: "t.png"
	}
	Video: 500, "Video::v", "Clip" {
		RelativeFilename: "t.png"
	}
	AnimationStack: 600, "AnimStack::take", "" {
	}
	AnimationLayer: 601, "AnimLayer::base", "" {
	}
	AnimationCurveNode: 602, "AnimCurveNode::T", "" {
	}
	AnimationCurve: 603, "AnimCurve::", "" {
		KeyTime: *2 {
			a: 0,46186158000
		}
		KeyValueFloat: *2 {
			a: 0,1
		}
	}
}
Connections:  {
	C: "OO",200,0
	C: "OO",100,200
	C: "OO",300,200
	C: "OP",400,300, "DiffuseColor"
	C: "OO",500,400
	C: "OO",601,600
	C: "OO",602,601
	C: "OP",602,200, "Lcl Translation"
	C: "OP",603,602, "d|X"
}
`;

describe('FBX', () => {
  it('any record but those of the mesh and its place that has another name leaves the geometry', async () => {
    const needed = /^\s*(Objects|Connections|Geometry|Vertices|PolygonVertexIndex|Model|C|a|FBXVersion|FBXHeaderExtension):/;
    const lines = FBX.split('\n');
    const refused: string[] = [];
    let tried = 0;
    for (const [i, line] of lines.entries()) {
      if (!/^\s*\w+:/.test(line) || needed.test(line)) continue;
      const text = lines.with?.(i, line.replace(/\w/, '_')) ?? lines.map((one, n) => (n === i ? one.replace(/\w/, '_') : one));
      tried++;
      try {
        const { parts } = await readModel(encode(text.join('\n')), 'a.fbx', new Map());
        if (parts.length === 0) refused.push(`${line}: no parts`);
      } catch (error) {
        refused.push(`${line.trim()}: ${(error as Error).message}`);
      }
    }
    expect(tried).toBeGreaterThan(30);
    expect(refused).toEqual([]);
  });
});
