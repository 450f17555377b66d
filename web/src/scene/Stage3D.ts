import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";

import type { BodySkin, CutFace, SceneBlock } from "@/api/sceneBlock";
import { COLOURS } from "@/ui/colours";

import { type Sign, type Vec, drawSigns } from "./drawSigns";
import {
  capMaterial,
  countingMaterial,
  fieldMaterial,
  lineMaterial,
  partMaterial,
  rampStops,
  statusMaterial,
} from "./materials";
import { type Mirrors, type Ring, imagesIn } from "./mirrors";
import { type SkinPlace, pointOn, valueOn } from "./skinPlaces";
import { type Strokes, strokeObject } from "./strokes";
import type { ViewTie } from "./viewTie";

export type BodyLook = "solid" | "ghost" | "field" | "hidden";

/** What the stage shows; everything that is not named stays as it is drawn by default. */
export type StageLook = {
  colours: string[];
  looks: BodyLook[];
  /** Values per body for bodies that look like a field. */
  fields?: (Float32Array | undefined)[];
  limits?: Limits;
  /** A field where the section cuts the parts that show one. */
  cutFace?: CutFace;
  /** One patch drawn over the ghosted parts. */
  patch?: { index: number; values: Float32Array; motion?: Float32Array; status: boolean };
  /** Coloured faces; of two that lie on each other the one with the larger `lift` is seen. */
  highlights: { body: string; face: string; colour: string; lift: number }[];
  showMesh: boolean;
  /** Whether the edges of what shows a field are drawn where they were at the start too. */
  showsStart?: boolean;
  /** Planes x, y, z = 0 that everything is seen mirrored in too. */
  mirrors?: Mirrors;
  /** What all is one sector of. */
  ring?: Ring | undefined;
  /** Where each body is drawn, off its place (mm). */
  offsets?: (Offset | undefined)[];
  /** Motion per body and its scale (1 is true scale). */
  motion?: (Float32Array | undefined)[];
  scale: number;
};

/** A section: what lies beyond the plane (outward normal, offset in mm) is taken away. */
export type Cut = [number, number, number, number];

/** What a field's colours reach from and to; `marksBeyond`: what lies outside has colours of its own. */
export type Limits = { low: number; high: number; signed: boolean; marksBeyond?: boolean; isLog?: boolean };

export type Offset = readonly [number, number, number];

/**
 * `face`: none where a plane section is picked away from its edges. `point`: where it was before anything moved (mm).
 * `place`: none on an edge.
 */
export type Pick = { body: string; face?: string; point: THREE.Vector3; place?: SkinPlace; distance?: number };

/**
 * A place of what shows a field: of a body, of the patch of a pair where there is none, or of the cut, which has no place
 * that stays and tells the value itself.
 */
export type Read = { body: string | undefined; point: THREE.Vector3; place?: SkinPlace; value?: number };

type Vertices = { position: THREE.BufferAttribute; value: THREE.BufferAttribute; motion: THREE.BufferAttribute };

const INK = COLOURS.ink;
const PLAIN = "#bbbbbb";
/** A section through a part that shows a field: what is inside is not known here. */
const FIELD_CAP = "#d9d9d9";
type Lines = THREE.LineSegments<THREE.BufferGeometry, THREE.ShaderMaterial>;
type Skin = THREE.Mesh<THREE.BufferGeometry, THREE.ShaderMaterial>;

/** How near (pixels) the pointer comes to an edge of a plane section to pick it. */
const EDGE_REACH = 9;
/** How long a loose part takes to swing to and fro. */
const SWING_MS = 1600;
/** How much of all is seen about a point that is gone to. */
const NEARER = 0.45;
/** How broad a marked edge of a plane section is drawn, as a share of the size of all. */
const EDGE_WIDTH = 0.012;

/** The 3D view: owns every three.js object, draws on demand, disposes what it made. */
export type Gauge = { axes: { x: number; y: number; away: number }[]; pixelsPerMm: number };

export class Stage3D {
  private readonly renderer: THREE.WebGLRenderer;
  private readonly scene = new THREE.Scene();
  private readonly camera = new THREE.PerspectiveCamera(16, 1, 1, 1e5);
  private readonly controls: OrbitControls;
  private readonly watcher: ResizeObserver;
  private readonly content = new THREE.Group();
  /**
   * What is shown no more. It goes once what took its place has been drawn: programs that both use are then not compiled
   * again.
   */
  private outgoing: THREE.Group[] = [];
  private signs: THREE.Group | undefined;
  private block: SceneBlock | undefined;
  /** What of a look needs other objects, as it was when these were made; and what writes a look into them. */
  private build = "";
  private bodies: (Vertices | undefined)[] = [];
  private offsets: (Offset | undefined)[] = [];
  private updates: ((look: StageLook) => void)[] = [];
  private skins: Skin[] = [];
  /** What shows the cut material of a section: counters of skins, and the planes with their hatching. */
  private counters: Skin[] = [];
  private caps: Skin[] = [];
  private cut: Cut | undefined;
  /** The field on the cut, and the look that it was drawn for. */
  private readonly cutMesh = emptyCut();
  private look: StageLook | undefined;
  private patch: Skin | undefined;
  private readonly strokes = new THREE.Group();
  /** What is seen in mirrors: of the same geometry and materials as what is shown. */
  private readonly images = new THREE.Group();
  /** Skins where they are seen, to be picked: made when first asked for of a look. */
  private readonly moved = new Map<Skin, { look: StageLook; skin: Skin }>();
  private tie: ViewTie | undefined;
  private pending = 0;
  private swaying = 0;
  private readonly listeners = new Set<() => void>();

  constructor(private readonly host: HTMLElement) {
    this.renderer = new THREE.WebGLRenderer({
      antialias: true,
      alpha: true,
      stencil: true,
      preserveDrawingBuffer: true,
    });
    // Our colours are written as they shall appear; nothing is converted on the way.
    this.renderer.outputColorSpace = THREE.LinearSRGBColorSpace;
    this.renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2));
    this.renderer.domElement.style.display = "block";
    host.appendChild(this.renderer.domElement);
    this.camera.up.set(0, 1, 0);
    this.controls = new OrbitControls(this.camera, this.renderer.domElement);
    this.controls.addEventListener("change", () => {
      this.draw();
      this.tie?.turned(this);
    });
    this.scene.add(this.content, this.cutMesh, this.strokes, this.images);
    this.watcher = new ResizeObserver(() => this.resize());
    this.watcher.observe(host);
    this.resize();
  }

  dispose(): void {
    cancelAnimationFrame(this.pending);
    cancelAnimationFrame(this.swaying);
    this.tieTo(undefined);
    this.watcher.disconnect();
    this.controls.dispose();
    this.clear();
    if (this.signs) this.outgoing.push(this.signs);
    this.outgoing.forEach(dispose);
    dispose(this.strokes);
    this.cutMesh.geometry.dispose();
    this.cutMesh.material.dispose();
    this.renderer.dispose();
    this.renderer.domElement.remove();
  }

  /** Hear every redraw, to place labels over the view. */
  onDraw(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  readonly draw = (): void => {
    if (this.pending) return;
    this.pending = requestAnimationFrame(() => {
      this.pending = 0;
      this.renderer.render(this.scene, this.camera);
      this.outgoing.splice(0).forEach(dispose);
      for (const listener of this.listeners) listener();
    });
  };

  /** Position of a point on the view, in pixels from its top left. */
  project(point: THREE.Vector3): { x: number; y: number } {
    const p = point.clone().project(this.camera);
    return { x: ((p.x + 1) / 2) * this.host.clientWidth, y: ((1 - p.y) / 2) * this.host.clientHeight };
  }

  /** How the view looks at the world: where each axis points on the screen (right, down), and pixels for a mm. */
  gauge(): Gauge {
    this.camera.updateMatrixWorld();
    const turned = (axis: THREE.Vector3) => axis.transformDirection(this.camera.matrixWorldInverse);
    const axes = [new THREE.Vector3(1, 0, 0), new THREE.Vector3(0, 1, 0), new THREE.Vector3(0, 0, 1)].map((a) => {
      const seen = turned(a);
      return { x: seen.x, y: -seen.y, away: -seen.z };
    });
    const distance = this.camera.position.distanceTo(this.controls.target);
    const seenHeight = 2 * distance * Math.tan((this.camera.fov * Math.PI) / 360);
    return { axes, pixelsPerMm: this.renderer.domElement.clientHeight / seenHeight };
  }

  /** Everything on the stage, framed from a direction that shows three sides; a flat section from its front. */
  frame(wanted?: THREE.Vector3): void {
    const box = this.bounds();
    if (box.isEmpty()) return;
    const isFlat = box.max.z - box.min.z < 1e-6 * (box.max.x - box.min.x);
    const direction = wanted ?? (isFlat ? new THREE.Vector3(0, 0, 1) : new THREE.Vector3(-0.78, 0.5, 0.95));
    const sphere = box.getBoundingSphere(new THREE.Sphere());
    const narrow = Math.min(1, this.camera.aspect);
    const distance = (sphere.radius * 0.97) / Math.sin((this.camera.fov * Math.PI) / 360) / narrow;
    this.controls.target.copy(sphere.center);
    this.camera.position.copy(sphere.center).addScaledVector(direction.clone().normalize(), distance);
    this.camera.near = distance / 50;
    this.camera.far = distance * 10;
    this.camera.updateProjectionMatrix();
    this.controls.update();
    this.draw();
  }

  private bounds(): THREE.Box3 {
    const box = new THREE.Box3();
    for (const body of this.block?.bodies ?? []) {
      for (let i = 0; i < body.positions.length; i += 3) {
        box.expandByPoint(new THREE.Vector3(body.positions[i], body.positions[i + 1], body.positions[i + 2]));
      }
    }
    if (box.isEmpty()) return box;
    const own = box.clone();
    for (const image of imagesIn(this.look?.mirrors, this.look?.ring)) box.union(own.clone().applyMatrix4(image));
    return box;
  }

  /**
   * Show a scene. Where only values, motions, limits or the scale are others than before, they are written into what is
   * there: a new field or a play head makes no buffers, materials or programs.
   */
  show(block: SceneBlock, look: StageLook): void {
    const build = JSON.stringify([
      look.looks,
      look.colours,
      look.highlights,
      look.showMesh,
      look.showsStart,
      look.patch && [look.patch.index, look.patch.status],
    ]);
    const isRebuilt = block !== this.block || build !== this.build;
    if (isRebuilt) this.rebuild(block, look, build);
    for (const update of this.updates) update(look);
    if (look.cutFace !== this.look?.cutFace) this.showCut(look.cutFace);
    setLimits(this.cutMesh.material, look);
    const isOtherwise = look.cutFace !== this.look?.cutFace || imagesOf(look) !== imagesOf(this.look);
    const isFramedAnew = imagesOf(look) !== imagesOf(this.look);
    this.look = look;
    this.showCaps();
    if (isRebuilt || isOtherwise) this.mirror();
    if (isFramedAnew) this.frame();
    this.shift(look.offsets ?? []);
  }

  /** Draw bodies off their places. */
  shift(offsets: (Offset | undefined)[]): void {
    this.offsets = offsets;
    for (const object of this.content.children) {
      const body = object.userData.body as number | undefined;
      if (body !== undefined && !this.caps.includes(object as Skin))
        object.position.set(...(offsets[body] ?? ([0, 0, 0] as const)));
    }
    this.draw();
  }

  /**
   * The point where the pointer meets a plane through a point, across the axis (0, 1, 2) that looks most at the viewer,
   * and that axis.
   */
  onPlane(
    clientX: number,
    clientY: number,
    through: THREE.Vector3,
  ): { axis: number; point: THREE.Vector3 } | undefined {
    const away = this.camera.getWorldDirection(new THREE.Vector3()).toArray().map(Math.abs);
    const axis = away.indexOf(Math.max(...away));
    const normal = new THREE.Vector3().setComponent(axis, 1);
    const plane = new THREE.Plane().setFromNormalAndCoplanarPoint(normal, through);
    const point = this.ray(clientX, clientY).ray.intersectPlane(plane, new THREE.Vector3());
    return point ? { axis, point } : undefined;
  }

  private rebuild(block: SceneBlock, look: StageLook, build: string): void {
    // Other parts are framed anew, and a section as the solid that it is of; parts that only changed stay as they were.
    const names = (b: SceneBlock | undefined) => b && [!!b.solid, ...b.bodies.map((body) => body.name)].join();
    const isNew = names(block) !== names(this.block);
    this.block = block;
    this.build = build;
    this.clear();
    block.bodies.forEach((_, i) => this.addBody(block, look, i));
    if (look.patch) this.addPatch(block, look.patch);
    for (const mark of look.highlights) this.addHighlight(block, look, mark);
    this.cutAway(this.cut);
    const lead = this.tie?.leadOf(this);
    if (isNew && lead) this.lookAs(lead);
    else if (isNew) this.frame();
  }

  /** Show signs, in place of those that are shown. */
  mark(signs: Sign[]): void {
    if (this.signs) {
      this.scene.remove(this.signs);
      this.outgoing.push(this.signs);
    }
    this.signs = drawSigns(signs, 2 * this.bounds().getBoundingSphere(new THREE.Sphere()).radius);
    this.scene.add(this.signs);
    this.draw();
  }

  /** Let what moves swing to and fro about its place, or stop it there. Who wants no animation sees it at its end. */
  sway(isOn: boolean): void {
    cancelAnimationFrame(this.swaying);
    if (!isOn || window.matchMedia("(prefers-reduced-motion: reduce)").matches) return this.scaleMotion(isOn ? 1 : 0);
    const swing = (now: number) => {
      this.scaleMotion(Math.sin((2 * Math.PI * now) / SWING_MS));
      this.swaying = requestAnimationFrame(swing);
    };
    this.swaying = requestAnimationFrame(swing);
  }

  private scaleMotion(scale: number): void {
    this.content.traverse((object) => {
      if (!(object instanceof THREE.Mesh || object instanceof THREE.LineSegments)) return;
      const uniform = (object.material as THREE.ShaderMaterial).uniforms.scale;
      if (uniform) uniform.value = scale;
    });
    this.draw();
  }

  /** Move the section without making anything anew. */
  cutAway(cut: Cut | undefined): void {
    this.cut = cut;
    this.content.traverse((object) => {
      if (object instanceof THREE.Mesh || object instanceof THREE.LineSegments) {
        const plane = (object.material as THREE.ShaderMaterial).uniforms.cut?.value as THREE.Vector4 | undefined;
        plane?.set(...(cut ?? [0, 0, 0, 1]));
      }
    });
    this.showCaps();
    if (cut) {
      const [x, y, z, offset] = cut;
      const { center, radius } = this.bounds().getBoundingSphere(new THREE.Sphere());
      const normal = new THREE.Vector3(x, y, z);
      for (const cap of this.caps) {
        cap.position.copy(center).addScaledVector(normal, offset - normal.dot(center));
        cap.quaternion.setFromUnitVectors(new THREE.Vector3(0, 0, 1), normal);
        cap.scale.setScalar(4 * radius);
      }
    }
    this.draw();
  }

  /** The field on the cut takes the place of the hatching of the parts that show one. */
  private showCaps(): void {
    const isField = (mesh: Skin) => this.look?.cutFace && this.look.looks[mesh.userData.body as number] === "field";
    for (const mesh of [...this.counters, ...this.caps]) mesh.visible = !!this.cut && !isField(mesh);
    this.cutMesh.visible = !!this.look?.cutFace;
    // A flat cut has one light; a surface of equal value is shaped by it.
    this.cutMesh.material.uniforms.flatShade!.value = this.cut ? 1 : 0;
  }

  private mirror(): void {
    this.images.clear();
    for (const matrix of imagesIn(this.look?.mirrors, this.look?.ring)) {
      const image = new THREE.Group();
      image.applyMatrix4(matrix);
      const hidden = new Set<THREE.Object3D>([...this.counters, ...this.caps]);
      for (const object of [...this.content.children, this.cutMesh])
        if (!hidden.has(object) && object.visible) image.add(object.clone());
      this.images.add(image);
    }
    this.draw();
  }

  private showCut(face: CutFace | undefined): void {
    const old = this.cutMesh.geometry;
    this.cutMesh.geometry = new THREE.BufferGeometry();
    old.dispose();
    if (!face) return;
    const { geometry } = this.cutMesh;
    geometry.setAttribute("position", new THREE.BufferAttribute(face.positions, 3));
    geometry.setAttribute("value", new THREE.BufferAttribute(face.values, 1));
    geometry.setAttribute("motion", new THREE.BufferAttribute(new Float32Array(face.positions.length), 3));
    geometry.setIndex(new THREE.BufferAttribute(face.triangles, 1));
  }

  /** The face under the pointer that is seen there. */
  pick(clientX: number, clientY: number): Pick | undefined {
    const found = this.along(
      clientX,
      clientY,
      this.skins.filter((s) => !s.userData.ghost),
    )[0];
    return this.edgeNear(clientX, clientY) ?? found;
  }

  /** The edge of a plane section under the pointer. */
  private edgeNear(clientX: number, clientY: number): Pick | undefined {
    const area = this.renderer.domElement.getBoundingClientRect();
    const at = { x: clientX - area.left, y: clientY - area.top };
    let best: Pick | undefined;
    let least = EDGE_REACH;
    for (const body of this.block?.bodies ?? []) {
      if (!this.skins.some((s) => s.name === body.name)) continue;
      body.rimFace.forEach((owner, r) => {
        const [start, end] = [vertex(body, body.rims[2 * r]), vertex(body, body.rims[2 * r + 1])];
        const [a, b] = [this.project(start), this.project(end)];
        const along = { x: b.x - a.x, y: b.y - a.y };
        const length = along.x ** 2 + along.y ** 2 || 1;
        const t = Math.min(1, Math.max(0, ((at.x - a.x) * along.x + (at.y - a.y) * along.y) / length));
        const distance = Math.hypot(a.x + t * along.x - at.x, a.y + t * along.y - at.y);
        if (distance >= least) return;
        least = distance;
        best = { body: body.name, face: body.faces[owner], point: start.lerp(end, t) };
      });
    }
    return best;
  }

  /** What shows a field under the pointer. */
  read(clientX: number, clientY: number): Read | undefined {
    const patch = this.patch && this.ray(clientX, clientY).intersectObject(this.whereSeen(this.patch), false)[0];
    const positions = this.block?.patches[this.look?.patch?.index ?? -1]?.positions;
    if (patch?.face && patch.barycoord && positions) {
      const { a, b, c } = patch.face;
      const { x, y, z } = patch.barycoord;
      const place: SkinPlace = { corners: [a, b, c], shares: [x, y, z] };
      return { body: undefined, place, point: new THREE.Vector3(...pointOn(positions, place)) };
    }
    const shown = this.skins.filter((s) => this.look?.looks[s.userData.body as number] === "field");
    const found = this.along(clientX, clientY, shown)[0];
    const cut = this.cutMesh.visible ? this.ray(clientX, clientY).intersectObject(this.cutMesh, false)[0] : undefined;
    if (cut?.face && cut.barycoord && (!found || cut.distance < (found.distance ?? Infinity))) {
      const { a, b, c } = cut.face;
      const { x, y, z } = cut.barycoord;
      const values = this.look?.cutFace?.values ?? new Float32Array();
      const value = valueOn(values, { corners: [a, b, c], shares: [x, y, z] });
      return { body: undefined, point: cut.point, value };
    }
    return found?.place && { body: found.body, place: found.place, point: found.point };
  }

  /** Draw lines through points, and strokes, over everything. */
  trace(lines: Vec[][], strokes: Strokes | undefined): void {
    dispose(this.strokes);
    this.strokes.clear();
    for (const points of lines) {
      const geometry = new THREE.BufferGeometry().setFromPoints(points.map((p) => new THREE.Vector3(...p)));
      const material = new THREE.LineBasicMaterial({ color: COLOURS.vermilion, depthTest: false });
      const line = new THREE.Line(geometry, material);
      line.renderOrder = 100;
      this.strokes.add(line);
    }
    if (strokes) this.strokes.add(strokeObject(strokes));
    this.draw();
  }

  /** Where it is looked at from: the direction to the eye, and what is up. */
  view(): { towards: Vec; up: Vec } {
    const up = new THREE.Vector3(0, 1, 0).applyQuaternion(this.camera.quaternion);
    return { towards: this.camera.position.clone().sub(this.controls.target).normalize().toArray(), up: up.toArray() };
  }

  /** Look together with others: where one is turned to, all turn. */
  tieTo(tie: ViewTie | undefined): void {
    this.tie?.leave(this);
    this.tie = tie;
    tie?.join(this);
  }

  /** Look from where another stage does. */
  lookAs(other: Stage3D): void {
    this.camera.position.copy(other.camera.position);
    this.controls.target.copy(other.controls.target);
    this.camera.near = other.camera.near;
    this.camera.far = other.camera.far;
    this.camera.updateProjectionMatrix();
    this.controls.update();
    this.draw();
  }

  /** Look at a point from where the view looks now, from nearer. */
  goTo(point: Vec): void {
    const target = new THREE.Vector3(...point);
    const { radius } = this.bounds().getBoundingSphere(new THREE.Sphere());
    const away = this.camera.position.clone().sub(this.controls.target);
    const near = (radius * NEARER) / Math.sin((this.camera.fov * Math.PI) / 360);
    this.camera.position.copy(target).add(away.setLength(Math.min(away.length(), near)));
    this.controls.target.copy(target);
    this.controls.update();
    this.draw();
  }

  /** Bodies that are seen wholly within a part of the view, its corners in pixels of the window. */
  within(a: { x: number; y: number }, b: { x: number; y: number }): string[] {
    const area = this.renderer.domElement.getBoundingClientRect();
    const [left, right] = [Math.min(a.x, b.x) - area.left, Math.max(a.x, b.x) - area.left];
    const [top, bottom] = [Math.min(a.y, b.y) - area.top, Math.max(a.y, b.y) - area.top];
    return (this.block?.bodies ?? [])
      .filter((body) => this.skins.some((s) => s.name === body.name))
      .filter((body) => {
        const off = new THREE.Vector3(
          ...(this.offsets[this.block?.bodies.indexOf(body) ?? -1] ?? ([0, 0, 0] as const)),
        );
        for (let v = 0; v < body.positions.length / 3; v++) {
          const { x, y } = this.project(vertex(body, v).add(off));
          if (x < left || x > right || y < top || y > bottom) return false;
        }
        return true;
      })
      .map((body) => body.name);
  }

  /** All faces under the pointer, covered and ghosted ones too, the nearest first. */
  peel(clientX: number, clientY: number): Pick[] {
    const seen = new Set<string>();
    const edge = this.edgeNear(clientX, clientY);
    return [...(edge ? [edge] : []), ...this.along(clientX, clientY, this.skins)].filter((p) => {
      if (p.face === undefined) return false;
      const key = `${p.body}/${p.face}`;
      return !seen.has(key) && seen.add(key);
    });
  }

  private ray(clientX: number, clientY: number): THREE.Raycaster {
    const area = this.renderer.domElement.getBoundingClientRect();
    const pointer = new THREE.Vector2(
      ((clientX - area.left) / area.width) * 2 - 1,
      1 - ((clientY - area.top) / area.height) * 2,
    );
    const caster = new THREE.Raycaster();
    caster.setFromCamera(pointer, this.camera);
    return caster;
  }

  private along(clientX: number, clientY: number, skins: Skin[]): Pick[] {
    return this.ray(clientX, clientY)
      .intersectObjects(
        skins.map((s) => this.whereSeen(s)),
        false,
      )
      .flatMap(({ object, faceIndex, face: met, point, barycoord, distance }): Pick[] => {
        const body = this.block?.bodies.find((b) => b.name === object.name);
        const [x, y, z, offset] = this.cut ?? [0, 0, 0, 1];
        const isGone = point.x * x + point.y * y + point.z * z > offset;
        if (!body || faceIndex == null || isGone) return [];
        const face = body.faces[body.triangleFace[faceIndex] ?? 0];
        if (!met || !barycoord) return [{ body: body.name, face, point }];
        const corners = [met.a, met.b, met.c] as const;
        const place: SkinPlace = { corners, shares: [barycoord.x, barycoord.y, barycoord.z] };
        const start = new THREE.Vector3(...pointOn(body.positions, place));
        return [{ body: body.name, face, point: start, place, distance }];
      });
  }

  /** A skin as it is seen, moved by the result. */
  private whereSeen(skin: Skin): Skin {
    const { look } = this;
    const isPatch = skin === this.patch;
    const body = skin.userData.body as number;
    const motion = isPatch ? look?.patch?.motion : look?.motion?.[body];
    const from = isPatch ? this.block?.patches[look?.patch?.index ?? -1] : this.block?.bodies[body];
    const positions = from?.positions;
    if (!look || !motion || !positions || motion.length !== positions.length || look.scale === 0) return skin;
    const known = this.moved.get(skin);
    if (known?.look === look) return known.skin;
    known?.skin.geometry.dispose();
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute(
      "position",
      new THREE.BufferAttribute(
        positions.map((x, k) => x + look.scale * (motion[k] ?? 0)),
        3,
      ),
    );
    geometry.setIndex(skin.geometry.index);
    const moved: Skin = new THREE.Mesh(geometry, skin.material);
    moved.name = skin.name;
    this.moved.set(skin, { look, skin: moved });
    return moved;
  }

  /** A still of the stage as a data address. */
  picture(width?: number): string {
    const { clientWidth, clientHeight } = this.host;
    const ratio = this.renderer.getPixelRatio();
    if (width && clientWidth) {
      this.renderer.setPixelRatio(1);
      this.renderer.setSize(width, Math.round((width * clientHeight) / clientWidth), false);
    }
    this.renderer.render(this.scene, this.camera);
    const still = this.renderer.domElement.toDataURL("image/png");
    if (width && clientWidth) {
      this.renderer.setPixelRatio(ratio);
      this.renderer.setSize(clientWidth, clientHeight);
      this.draw();
    }
    return still;
  }

  private resize(): void {
    const { clientWidth: width, clientHeight: height } = this.host;
    if (!width || !height) return;
    this.renderer.setSize(width, height);
    // In a narrower view everything stays in sight.
    const nearer = Math.min(1, this.camera.aspect) / Math.min(1, width / height);
    this.camera.position.sub(this.controls.target).multiplyScalar(nearer).add(this.controls.target);
    this.camera.aspect = width / height;
    this.camera.updateProjectionMatrix();
    this.draw();
    this.tie?.turned(this);
  }

  private clear(): void {
    const old = new THREE.Group();
    if (this.content.children.length) old.add(...this.content.children);
    this.outgoing.push(old);
    this.moved.forEach(({ skin }) => skin.geometry.dispose());
    this.moved.clear();
    this.patch = undefined;
    this.skins = [];
    this.counters = [];
    this.caps = [];
    this.updates = [];
    this.bodies = [];
  }

  /** The attributes of one body or patch, shared by all that is drawn of it; its values and motions follow the look. */
  private vertices(
    positions: Float32Array,
    valuesOf: (look: StageLook) => Float32Array | undefined,
    motionOf: (look: StageLook) => Float32Array | undefined,
  ): Vertices {
    const made = {
      position: new THREE.BufferAttribute(positions, 3),
      value: new THREE.BufferAttribute(new Float32Array(positions.length / 3), 1),
      motion: new THREE.BufferAttribute(new Float32Array(positions.length), 3),
    };
    this.updates.push((look) => {
      write(made.value, valuesOf(look));
      write(made.motion, motionOf(look));
    });
    return made;
  }

  private geometry(vertices: Vertices, index: Uint32Array): THREE.BufferGeometry {
    const geometry = new THREE.BufferGeometry();
    for (const [name, attribute] of Object.entries(vertices)) geometry.setAttribute(name, attribute);
    geometry.setIndex(new THREE.BufferAttribute(index, 1));
    return geometry;
  }

  /** Uniforms of a material that follow the look, those that it has. */
  private follow<Material extends THREE.ShaderMaterial>(material: Material): Material {
    this.updates.push((look) => {
      const { scale } = material.uniforms;
      if (scale) scale.value = look.scale;
      setLimits(material, look);
    });
    return material;
  }

  private addBody(block: SceneBlock, look: StageLook, i: number): void {
    const body = block.bodies[i];
    const kind = look.looks[i] ?? "solid";
    if (!body || kind === "hidden") return;
    const ghost = kind === "ghost";
    const vertices = this.vertices(
      body.positions,
      (l) => l.fields?.[i],
      (l) => l.motion?.[i],
    );
    this.bodies[i] = vertices;
    const material = this.follow(
      kind === "field" ? fieldMaterial() : partMaterial(look.colours[i] ?? PLAIN, ghost ? 0.13 : 1),
    );
    const skin: Skin = new THREE.Mesh(this.geometry(vertices, body.triangles), material);
    skin.name = body.name;
    skin.renderOrder = ghost ? 2 : 0;
    if (!ghost) this.addCap(skin, kind === "field" ? FIELD_CAP : (look.colours[i] ?? FIELD_CAP), i);
    skin.userData = { ghost, body: i };
    this.content.add(skin);
    this.skins.push(skin);
    this.addLines(vertices, body.features, ghost ? 0.28 : 0.9, i);
    if (look.showMesh && !ghost) this.addLines(vertices, body.edges, 0.16, i);
    if (look.showsStart && kind === "field") this.addStart(body);
  }

  /** The hatching of a part where the section cuts it, drawn part by part: counted, then filled. */
  private addCap(skin: Skin, colour: string, i: number): void {
    for (const side of [THREE.BackSide, THREE.FrontSide] as const) {
      const counter: Skin = new THREE.Mesh(skin.geometry, this.follow(countingMaterial(side)));
      counter.renderOrder = 10 + 2 * i;
      counter.userData.body = i;
      this.counters.push(counter);
      this.content.add(counter);
    }
    const cap: Skin = new THREE.Mesh(new THREE.PlaneGeometry(1, 1), capMaterial(colour, i % 2 === 1));
    cap.renderOrder = 11 + 2 * i;
    cap.userData.body = i;
    cap.onAfterRender = (renderer) => renderer.clearStencil();
    this.caps.push(cap);
    this.content.add(cap);
  }

  private addLines(vertices: Vertices, index: Uint32Array, opacity: number, body: number): void {
    const lines: Lines = new THREE.LineSegments(
      this.geometry(vertices, index),
      this.follow(lineMaterial(INK, opacity)),
    );
    lines.renderOrder = 3;
    lines.userData.body = body;
    this.content.add(lines);
  }

  /** The edges of a body where they were before anything moved. */
  private addStart(body: BodySkin): void {
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.BufferAttribute(body.positions, 3));
    geometry.setIndex(new THREE.BufferAttribute(body.features, 1));
    const material = lineMaterial(COLOURS.vermilion, 0.9);
    material.depthTest = false;
    const lines: Lines = new THREE.LineSegments(geometry, material);
    lines.renderOrder = 50;
    this.content.add(lines);
  }

  private addPatch(block: SceneBlock, { index, status }: NonNullable<StageLook["patch"]>): void {
    const patch = block.patches[index];
    if (!patch) return;
    const material = this.follow(status ? statusMaterial() : fieldMaterial());
    // The patch lies on ghosted faces: without this they would flicker through it.
    material.polygonOffset = true;
    material.polygonOffsetFactor = -2;
    material.polygonOffsetUnits = -2;
    if (material.uniforms.flatShade) material.uniforms.flatShade.value = 1;
    const vertices = this.vertices(
      patch.positions,
      (l) => l.patch?.values,
      (l) => l.patch?.motion,
    );
    this.patch = new THREE.Mesh(this.geometry(vertices, patch.triangles), material);
    this.content.add(this.patch);
  }

  /** A broad line along an edge of a plane section, a little before it. */
  private ribbon(body: BodySkin, face: number): THREE.BufferGeometry {
    const { radius } = this.bounds().getBoundingSphere(new THREE.Sphere());
    const corners: number[] = [];
    body.rimFace.forEach((owner, r) => {
      if (owner !== face) return;
      const [a, b] = [vertex(body, body.rims[2 * r]), vertex(body, body.rims[2 * r + 1])];
      const along = b
        .clone()
        .sub(a)
        .setLength((EDGE_WIDTH * radius) / 2);
      const across = new THREE.Vector3(-along.y, along.x, 0);
      const before = new THREE.Vector3(0, 0, 1e-3 * radius);
      const [p, q, s, t] = [
        a.clone().sub(along).add(across),
        a.clone().sub(along).sub(across),
        b.clone().add(along).sub(across),
        b.clone().add(along).add(across),
      ].map((v) => v.add(before).toArray());
      corners.push(...p!, ...q!, ...s!, ...p!, ...s!, ...t!);
    });
    const made = this.vertices(
      new Float32Array(corners),
      () => undefined,
      () => undefined,
    );
    return this.geometry(
      made,
      Uint32Array.from({ length: corners.length / 3 }, (_, i) => i),
    );
  }

  private addHighlight(block: SceneBlock, look: StageLook, mark: StageLook["highlights"][number]): void {
    const i = block.bodies.findIndex((b) => b.name === mark.body);
    const body = block.bodies[i];
    const vertices = this.bodies[i];
    if (!body || !vertices || look.looks[i] === "hidden") return;
    const face = body.faces.indexOf(mark.face);
    const chosen: number[] = [];
    body.triangleFace.forEach((owner, t) => {
      if (owner === face) chosen.push(...body.triangles.subarray(3 * t, 3 * t + 3));
    });
    const material = this.follow(partMaterial(mark.colour, 0.999));
    material.depthWrite = true;
    if (body.rims.length) {
      material.side = THREE.DoubleSide;
      this.content.add(new THREE.Mesh(this.ribbon(body, face), material));
      return;
    }
    material.polygonOffsetFactor = -mark.lift;
    material.polygonOffsetUnits = -mark.lift;
    material.side = THREE.DoubleSide;
    const marked = new THREE.Mesh(this.geometry(vertices, new Uint32Array(chosen)), material);
    marked.userData.body = i;
    this.content.add(marked);
  }
}

/** Give back what the objects of a group hold on the graphics card. */
function dispose(group: THREE.Group): void {
  group.traverse((object) => {
    if (object instanceof THREE.Mesh || object instanceof THREE.Line) {
      (object.geometry as THREE.BufferGeometry).dispose();
      (object.material as THREE.Material).dispose();
    }
  });
}

/** The mesh that shows a field on the cut, which starts empty. */
function emptyCut(): Skin {
  const mesh: Skin = new THREE.Mesh(new THREE.BufferGeometry(), fieldMaterial());
  // Its size changes with every cut: it is never left out for being out of sight.
  mesh.frustumCulled = false;
  mesh.material.uniforms.flatShade!.value = 1;
  return mesh;
}

/** What tells the images of one look from those of another. */
const imagesOf = (look: StageLook | undefined) =>
  JSON.stringify([(look?.mirrors ?? [false, false, false]).map(Boolean), look?.ring]);

function setLimits(material: THREE.ShaderMaterial, { limits }: StageLook): void {
  const { low, high, stops, marksBeyond, isLog } = material.uniforms;
  if (!limits || !low || !high || !stops || !marksBeyond || !isLog) return;
  low.value = limits.low;
  high.value = limits.high;
  stops.value = rampStops(limits.signed);
  marksBeyond.value = limits.marksBeyond ? 1 : 0;
  isLog.value = limits.isLog ? 1 : 0;
}

/** A vertex of a skin as a point. */
function vertex(body: BodySkin, index = 0): THREE.Vector3 {
  return new THREE.Vector3().fromArray(body.positions, 3 * index);
}

/** Write values into an attribute that is there; without any it becomes zero. */
function write(attribute: THREE.BufferAttribute, values: Float32Array | undefined): void {
  const held = attribute.array as Float32Array;
  if (!values) held.fill(0);
  else if (values.length === held.length) held.set(values);
  else return;
  attribute.needsUpdate = true;
}
