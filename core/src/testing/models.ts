/** Models for tests: a cube, an open model from the registry, and what exporters write of them. */

import { createRequire } from 'node:module';
import { Document, WebIO } from '@gltf-transform/core';
import { BufferAttribute, BufferGeometry, Mesh, MeshStandardMaterial } from 'three';

const text = (content: string): Uint8Array => new TextEncoder().encode(content);
export const bytesOf = text;

/** A unit cube about the origin without normals and texture coordinates. */
export const CUBE = `o cube
v -0.5 -0.5 -0.5
v 0.5 -0.5 -0.5
v 0.5 0.5 -0.5
v -0.5 0.5 -0.5
v -0.5 -0.5 0.5
v 0.5 -0.5 0.5
v 0.5 0.5 0.5
v -0.5 0.5 0.5
f 4 3 2 1
f 5 6 7 8
f 1 2 6 5
f 2 3 7 6
f 3 4 8 7
f -8 -4 -1 -5
`;

/** The Stanford bunny as the package `bunny` ships it: positions and triangles. */
export const bunny = createRequire(import.meta.url)('bunny') as { positions: number[][]; cells: number[][] };

export const bunnyObj = (): Uint8Array =>
  text([...bunny.positions.map((p) => `v ${p.join(' ')}`), ...bunny.cells.map((c) => `f ${c.map((i) => i + 1).join(' ')}`)].join('\n'));

export function bunnyMesh(): Mesh {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(Float32Array.from(bunny.positions.flat()), 3));
  geometry.setIndex(bunny.cells.flat());
  return new Mesh(geometry, new MeshStandardMaterial());
}

/** A bar of two joints that bends over one second, as a GLB. */
export async function bendingGlb(): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const accessor = (type: 'SCALAR' | 'VEC3' | 'VEC4' | 'MAT4', array: Float32Array | Uint16Array) =>
    document
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  const positions = Float32Array.from([-0.1, 0, 0, 0.1, 0, 0, -0.1, 1, 0, 0.1, 1, 0, -0.1, 2, 0, 0.1, 2, 0]);
  const joints = Uint16Array.from([0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0]);
  const weights = Float32Array.from([1, 0, 0, 0, 1, 0, 0, 0, 0.5, 0.5, 0, 0, 0.5, 0.5, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0]);
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', positions))
    .setAttribute('JOINTS_0', accessor('VEC4', joints))
    .setAttribute('WEIGHTS_0', accessor('VEC4', weights))
    .setIndices(accessor('SCALAR', Uint16Array.from([0, 1, 3, 0, 3, 2, 2, 3, 5, 2, 5, 4])));
  const lower = document.createNode('lower');
  const upper = document.createNode('upper').setTranslation([0, 1, 0]);
  lower.addChild(upper);
  const identity = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
  const skin = document
    .createSkin('bones')
    .addJoint(lower)
    .addJoint(upper)
    .setInverseBindMatrices(accessor('MAT4', Float32Array.from([...identity, ...identity.with(13, -1)])));
  const body = document.createNode('body').setMesh(document.createMesh('bar').addPrimitive(primitive)).setSkin(skin);
  const sampler = document
    .createAnimationSampler()
    .setInput(accessor('SCALAR', Float32Array.from([0, 1])))
    .setOutput(accessor('VEC4', Float32Array.from([0, 0, 0, 1, 0, 0, Math.SQRT1_2, Math.SQRT1_2])))
    .setInterpolation('LINEAR');
  document
    .createAnimation('bend')
    .addSampler(sampler)
    .addChannel(document.createAnimationChannel().setTargetNode(upper).setTargetPath('rotation').setSampler(sampler));
  document.getRoot().setDefaultScene(document.createScene('all').addChild(lower).addChild(body));
  return new WebIO().writeBinary(document);
}

/** A square of one metre in COLLADA, z up, in centimetres, with a texture that did not come along. */
export const COLLADA = `<?xml version="1.0" encoding="utf-8"?>
<COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">
  <asset><unit name="centimeter" meter="0.01"/><up_axis>Z_UP</up_axis></asset>
  <library_images><image id="picture"><init_from>Moss.PNG</init_from></image></library_images>
  <library_effects><effect id="fx"><profile_COMMON>
    <newparam sid="surface"><surface type="2D"><init_from>picture</init_from></surface></newparam>
    <newparam sid="sampler"><sampler2D><source>surface</source></sampler2D></newparam>
    <technique sid="common"><lambert><diffuse><texture texture="sampler" texcoord="UV"/></diffuse></lambert></technique>
  </profile_COMMON></effect></library_effects>
  <library_materials><material id="moss" name="moss"><instance_effect url="#fx"/></material></library_materials>
  <library_geometries><geometry id="square" name="square"><mesh>
    <source id="p"><float_array id="pa" count="12">0 0 0 100 0 0 100 0 100 0 0 100</float_array>
      <technique_common><accessor source="#pa" count="4" stride="3"><param name="X" type="float"/><param name="Y" type="float"/><param name="Z" type="float"/></accessor></technique_common></source>
    <source id="t"><float_array id="ta" count="8">0 0 1 0 1 1 0 1</float_array>
      <technique_common><accessor source="#ta" count="4" stride="2"><param name="S" type="float"/><param name="T" type="float"/></accessor></technique_common></source>
    <vertices id="v"><input semantic="POSITION" source="#p"/></vertices>
    <triangles material="moss" count="2"><input semantic="VERTEX" source="#v" offset="0"/><input semantic="TEXCOORD" source="#t" offset="1" set="0"/>
      <p>0 0 1 1 2 2 0 0 2 2 3 3</p></triangles>
  </mesh></geometry></library_geometries>
  <library_visual_scenes><visual_scene id="scene"><node id="n" name="square"><instance_geometry url="#square">
    <bind_material><technique_common><instance_material symbol="moss" target="#moss"/></technique_common></bind_material>
  </instance_geometry></node></visual_scene></library_visual_scenes>
  <scene><instance_visual_scene url="#scene"/></scene>
</COLLADA>
`;

/** A triangle of 100 centimetres in ASCII FBX 7.4, y up. */
export const FBX = `; FBX 7.4.0 project file
FBXHeaderExtension:  {
	FBXHeaderVersion: 1003
	FBXVersion: 7400
}
GlobalSettings:  {
	Version: 1000
	Properties70:  {
		P: "UpAxis", "int", "Integer", "",1
		P: "UnitScaleFactor", "double", "Number", "",1
	}
}
Objects:  {
	Geometry: 1000, "Geometry::tri", "Mesh" {
		Vertices: *9 {
			a: 0,0,0,100,0,0,0,100,0
		}
		PolygonVertexIndex: *3 {
			a: 0,1,-3
		}
		GeometryVersion: 124
	}
	Model: 2000, "Model::tri", "Mesh" {
		Version: 232
	}
}
Connections:  {
	C: "OO",2000,0
	C: "OO",1000,2000
}
`;
