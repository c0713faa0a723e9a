import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  PerspectiveCamera,
  Raycaster,
  Scene,
  ShaderMaterial,
  Vector2,
  Vector3,
  WebGLRenderer,
} from "three";
import { type Band, bare, type Look, type Surface, sharesOf, type Vec } from "./surface";

// The one place that knows three; it is loaded when a surface is looked at.

const maxBands = 12;

const vertex = `
attribute float value;
uniform float lift;
varying vec3 vNormal;
varying vec3 vView;
varying float vValue;
varying float vKnown;
void main() {
  vKnown = value > -9000.0 ? 1.0 : 0.0;
  vValue = value;
  vec3 p = position + normal * lift * max(0.0, vKnown * value);
  vec4 at = modelViewMatrix * vec4(p, 1.0);
  vView = at.xyz;
  vNormal = normalMatrix * normal;
  gl_Position = projectionMatrix * at;
}`;

// Bands of flat colour with a thin contour between them, lit from the upper left.
const fragment = `
uniform int count;
uniform float tops[${maxBands}];
uniform vec3 paints[${maxBands}];
uniform vec3 bare;
uniform float lines;
uniform float lifted;
varying vec3 vNormal;
varying vec3 vView;
varying float vValue;
varying float vKnown;
void main() {
  vec3 n = normalize(mix(vNormal, cross(dFdx(vView), dFdy(vView)), lifted));
  if (dot(n, vView) > 0.0) n = -n;
  vec3 paint = bare;
  float near = 1.0;
  if (vKnown > 0.999) {
    float width = fwidth(vValue) * 0.8 + 1e-6;
    for (int i = 0; i < ${maxBands}; i++) {
      if (i >= count) break;
      if (i < count - 1) near = min(near, abs(vValue - tops[i]) / width);
      if (vValue <= tops[i]) { paint = paints[i]; break; }
      paint = paints[i];
    }
  }
  float light = 0.55 + 0.5 * max(0.0, dot(n, normalize(vec3(-0.55, 0.6, 0.6))));
  vec3 c = paint * light;
  c = mix(mix(vec3(0.2, 0.15, 0.12), c, 0.55), c, clamp(mix(1.0, near, lines), 0.0, 1.0));
  gl_FragColor = vec4(c, 1.0);
  #include <colorspace_fragment>
}`;

/** What was met under a finger. */
export interface Met {
  at: Vec;
  corners: Vec;
  shares: Vec;
}

/** A surface that can be looked at from all sides. */
export class View {
  private renderer: WebGLRenderer;
  private scene = new Scene();
  private camera = new PerspectiveCamera(30, 1, 0.1, 20000);
  private mesh?: Mesh<BufferGeometry, ShaderMaterial>;
  private lines?: LineSegments;
  private centre = new Vector3();
  private size = 100;
  private asked = 0;
  drawn?: () => void;

  /** Throws where the machine has no 3-D. */
  constructor(private canvas: HTMLCanvasElement) {
    this.renderer = new WebGLRenderer({ canvas, antialias: true, alpha: true, preserveDrawingBuffer: true });
    this.renderer.setPixelRatio(Math.min(2, window.devicePixelRatio || 1));
    this.renderer.setClearColor(new Color(0, 0, 0), 0);
  }

  show(surface: Surface) {
    this.mesh?.geometry.dispose();
    if (this.mesh) this.scene.remove(this.mesh);
    const g = new BufferGeometry();
    g.setAttribute("position", new BufferAttribute(surface.places, 3));
    g.setIndex(new BufferAttribute(surface.faces, 1));
    g.setAttribute("value", new BufferAttribute(new Float32Array(surface.places.length / 3).fill(-9999), 1));
    g.computeVertexNormals();
    g.computeBoundingSphere();
    const ball = g.boundingSphere;
    if (ball) {
      this.centre.copy(ball.center);
      this.size = Math.max(1, ball.radius);
    }
    const material =
      this.mesh?.material ??
      new ShaderMaterial({
        vertexShader: vertex,
        fragmentShader: fragment,
        side: DoubleSide,
        uniforms: {
          lift: { value: 0 },
          lifted: { value: 0 },
          count: { value: 0 },
          tops: { value: new Array(maxBands).fill(0) },
          paints: { value: Array.from({ length: maxBands }, () => new Color()) },
          bare: { value: new Color().setRGB(...bare, "srgb") },
          lines: { value: 1 },
        },
      });
    this.mesh = new Mesh(g, material);
    this.scene.add(this.mesh);
    this.ask();
  }

  colour(layer: Float32Array | undefined, bands: Band[], lift: number) {
    if (!this.mesh) return;
    const value = this.mesh.geometry.getAttribute("value") as BufferAttribute;
    const into = value.array as Float32Array;
    for (let i = 0; i < into.length; i++) into[i] = layer && !Number.isNaN(layer[i]) ? layer[i] : -9999;
    value.needsUpdate = true;
    const u = this.mesh.material.uniforms;
    u.count.value = Math.min(maxBands, bands.length);
    u.tops.value = Array.from({ length: maxBands }, (_, i) => Math.min(1e9, bands[i]?.to ?? 1e9));
    bands.slice(0, maxBands).forEach((b, i) => {
      (u.paints.value[i] as Color).setRGB(...b.colour, "srgb");
    });
    u.lift.value = lift;
    u.lifted.value = lift > 0 ? 1 : 0;
    this.ask();
  }

  /** Draws line segments over the surface. */
  line(segments: Vec[][], colour: Vec) {
    if (this.lines) {
      this.scene.remove(this.lines);
      this.lines.geometry.dispose();
      this.lines = undefined;
    }
    if (segments.length > 0) {
      const g = new BufferGeometry();
      g.setAttribute("position", new BufferAttribute(new Float32Array(segments.flat(2)), 3));
      this.lines = new LineSegments(g, new LineBasicMaterial({ color: new Color().setRGB(...colour, "srgb"), depthTest: false }));
      this.lines.renderOrder = 2;
      this.scene.add(this.lines);
    }
    this.ask();
  }

  look(l: Look) {
    const away = (this.size * 2.02) / Math.tan((15 * Math.PI) / 180) / 2 / l.near;
    const round = (l.round * Math.PI) / 180;
    const up = (l.up * Math.PI) / 180;
    this.camera.position.set(
      this.centre.x + away * Math.sin(round) * Math.cos(up),
      this.centre.y + away * Math.sin(up),
      this.centre.z + away * Math.cos(round) * Math.cos(up),
    );
    this.camera.lookAt(this.centre);
    this.camera.near = Math.max(0.1, away - 3 * this.size);
    this.camera.far = away + 3 * this.size;
    this.camera.updateProjectionMatrix();
    this.ask();
  }

  resize(width: number, height: number) {
    this.renderer.setSize(width, height, false);
    this.camera.aspect = width / Math.max(1, height);
    this.camera.updateProjectionMatrix();
    this.ask();
  }

  /** Where a place is on the screen, and whether it looks at us. */
  onScreen(at: Vec): { x: number; y: number; behind: boolean } {
    const p = new Vector3(...at).project(this.camera);
    const ray = new Vector3(...at).sub(this.camera.position);
    const far = ray.length();
    const cast = new Raycaster(this.camera.position, ray.normalize());
    const hit = this.mesh ? cast.intersectObject(this.mesh)[0] : undefined;
    return {
      x: ((p.x + 1) / 2) * this.canvas.clientWidth,
      y: ((1 - p.y) / 2) * this.canvas.clientHeight,
      behind: !!hit && hit.distance < far - Math.max(2, 0.03 * this.size),
    };
  }

  /** What lies under a place of the screen. */
  meet(x: number, y: number): Met | undefined {
    if (!this.mesh) return undefined;
    const cast = new Raycaster();
    cast.setFromCamera(new Vector2((2 * x) / this.canvas.clientWidth - 1, 1 - (2 * y) / this.canvas.clientHeight), this.camera);
    const hit = cast.intersectObject(this.mesh)[0];
    if (!hit?.face) return undefined;
    const position = this.mesh.geometry.getAttribute("position");
    const corner = (i: number): Vec => [position.getX(i), position.getY(i), position.getZ(i)];
    const at: Vec = [hit.point.x, hit.point.y, hit.point.z];
    const { a, b, c } = hit.face;
    return { at, corners: [a, b, c], shares: sharesOf(at, corner(a), corner(b), corner(c)) };
  }

  private ask() {
    if (this.asked) return;
    this.asked = requestAnimationFrame(() => {
      this.asked = 0;
      this.renderer.render(this.scene, this.camera);
      this.drawn?.();
    });
  }

  end() {
    cancelAnimationFrame(this.asked);
    this.mesh?.geometry.dispose();
    this.mesh?.material.dispose();
    this.lines?.geometry.dispose();
    this.renderer.dispose();
  }
}
