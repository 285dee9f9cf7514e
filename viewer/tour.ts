import { bearingTo, type Tour } from '../core/tour/tour';

/** Shows a tour on a page with nothing else: looked about by mouse, touch and keys. Runs from a file, with the network off. */

const RAD = Math.PI / 180;
const [NARROW, WIDE] = [30, 100];
const SHADER = `precision highp float;
uniform sampler2D picture;
uniform vec3 right, up, ahead;
uniform vec2 reach;
uniform float heading;
varying vec2 place;
void main() {
  vec3 d = normalize(ahead + right * place.x * reach.x + up * place.y * reach.y);
  float round = atan(d.x, d.y) - heading;
  gl_FragColor = texture2D(picture, vec2(fract(round / 6.2831853 + 0.5), 0.5 - asin(clamp(d.z, -1.0, 1.0)) / 3.1415927));
}`;

type Vec = readonly [number, number, number];

export function showTour(tour: Tour, stage: HTMLElement): void {
  const canvas = stage.appendChild(document.createElement('canvas'));
  canvas.tabIndex = 0;
  canvas.setAttribute('aria-label', 'All-round picture. Drag or arrow keys to look, wheel or plus and minus to approach.');
  const gl = canvas.getContext('webgl');
  if (!gl) {
    stage.textContent = 'This browser shows no WebGL, without which these pictures cannot be looked about in.';
    return;
  }
  const view = { azimuth: 0, altitude: 0, fov: 75 };
  let point = 0;
  let state = 0;
  const program = programOf(gl);
  const texture = gl.createTexture();
  const at = (name: string) => gl.getUniformLocation(program, name);

  const spots = stage.appendChild(div('spots'));
  const bar = stage.appendChild(div('bar'));
  const title = bar.appendChild(div('title'));
  const states = bar.appendChild(div('states'));
  const plan = tour.plan ? stage.appendChild(div('plan')) : undefined;
  const eye = planWith(plan);

  /** Opens a point, looking where one looked. */
  function open(number: number, inState = state): void {
    const isNew = number !== point;
    point = number;
    state = inState;
    const { pictures, name } = tour.points[point]!;
    if (!pictures[state])
      state = Math.max(
        0,
        pictures.findIndex((picture) => picture !== ''),
      );
    title.textContent = `${tour.project} · ${name}`;
    canvas.dataset['point'] = name;
    canvas.dataset['shown'] = '';
    const image = new Image();
    image.onload = () => {
      const most = gl!.getParameter(gl!.MAX_TEXTURE_SIZE) as number;
      gl!.bindTexture(gl!.TEXTURE_2D, texture);
      gl!.texImage2D(gl!.TEXTURE_2D, 0, gl!.RGB, gl!.RGB, gl!.UNSIGNED_BYTE, image.width > most ? smaller(image, most) : image);
      for (const [what, value] of [[gl!.TEXTURE_MIN_FILTER, gl!.LINEAR], [gl!.TEXTURE_WRAP_S, gl!.CLAMP_TO_EDGE], [gl!.TEXTURE_WRAP_T, gl!.CLAMP_TO_EDGE]] as const) gl!.texParameteri(gl!.TEXTURE_2D, what, value);
      canvas.dataset['shown'] = tour.states[state] ?? '';
      draw();
    }; // prettier-ignore
    image.src = pictures[state]!;
    states.replaceChildren(
      ...tour.states.map((said, i) => {
        const button = Object.assign(document.createElement('button'), { textContent: said, disabled: !pictures[i] });
        button.setAttribute('aria-pressed', String(i === state));
        button.onclick = () => {
          open(point, i);
        };
        return button;
      }),
    );
    if (isNew) spots.replaceChildren();
    spots.replaceChildren(
      ...linked(tour, point).map((other) => {
        const button = Object.assign(document.createElement('button'), { textContent: tour.points[other]!.name });
        button.dataset['to'] = String(other);
        button.onclick = () => {
          open(other);
        };
        return button;
      }),
    );
    draw();
  }

  function draw(): void {
    const [width, height] = [stage.clientWidth, stage.clientHeight];
    const scale = Math.min(2, devicePixelRatio);
    if (canvas.width !== Math.round(width * scale) || canvas.height !== Math.round(height * scale)) {
      canvas.width = Math.round(width * scale);
      canvas.height = Math.round(height * scale);
    }
    const axes = axesOf(view.azimuth, view.altitude);
    const x = Math.tan((view.fov * RAD) / 2);
    const y = (x * height) / width;
    gl!.viewport(0, 0, canvas.width, canvas.height);
    gl!.useProgram(program);
    for (const name of ['right', 'up', 'ahead'] as const) gl!.uniform3fv(at(name), axes[name]);
    gl!.uniform2f(at('reach'), x, y);
    gl!.uniform1f(at('heading'), tour.points[point]!.headingDeg * RAD);
    gl!.drawArrays(gl!.TRIANGLES, 0, 3);
    for (const spot of spots.children as HTMLCollectionOf<HTMLButtonElement>) {
      const { azimuthDeg, altitudeDeg } = bearingTo(
        tour.points[point]!.position,
        lowered(tour.points[Number(spot.dataset['to'])]!.position),
      );
      const d = directionOf(azimuthDeg, altitudeDeg);
      const ahead = dot(d, axes.ahead);
      const [sx, sy] = [dot(d, axes.right) / ahead / x, dot(d, axes.up) / ahead / y];
      const isSeen = ahead > 0 && Math.abs(sx) < 1 && Math.abs(sy) < 1;
      spot.style.display = isSeen ? '' : 'none';
      spot.style.left = `${String(((sx + 1) / 2) * 100)}%`;
      spot.style.top = `${String(((1 - sy) / 2) * 100)}%`;
    }
    eye?.(point, view.azimuth);
    canvas.dataset['azimuth'] = view.azimuth.toFixed(1);
  }

  function planWith(holder: HTMLElement | undefined): ((point: number, azimuth: number) => void) | undefined {
    if (!holder || !tour.plan) return undefined;
    const { minX, minY, maxX, maxY, picture } = tour.plan;
    holder.appendChild(Object.assign(new Image(), { src: picture, alt: 'Plan' }));
    const north = holder.appendChild(div('north'));
    north.textContent = '↑ N';
    north.style.transform = `rotate(${String(tour.northDeg)}deg)`;
    const look = holder.appendChild(div('look'));
    const dots = tour.points.map(({ position, name }, i) => {
      const dot = holder.appendChild(Object.assign(document.createElement('button'), { title: name }));
      dot.setAttribute('aria-label', `To ${name}`);
      dot.style.left = `${String(((position[0] - minX) / (maxX - minX)) * 100)}%`;
      dot.style.top = `${String((1 - (position[1] - minY) / (maxY - minY)) * 100)}%`;
      dot.onclick = () => {
        open(i);
      };
      return dot;
    });
    return (here, azimuth) => {
      dots.forEach((dot, i) => {
        dot.setAttribute('aria-current', String(i === here));
      });
      look.style.left = dots[here]!.style.left;
      look.style.top = dots[here]!.style.top;
      look.style.transform = `rotate(${String(azimuth)}deg)`;
    };
  }

  const turn = (azimuth: number, altitude: number) => {
    view.azimuth = (view.azimuth + azimuth + 360) % 360;
    view.altitude = Math.min(89, Math.max(-89, view.altitude + altitude));
    draw();
  };
  const zoom = (by: number) => {
    view.fov = Math.min(WIDE, Math.max(NARROW, view.fov * by));
    draw();
  };
  const fingers = new Map<number, { x: number; y: number }>();
  const spread = () => {
    const [a, b] = [...fingers.values()];
    return a && b ? Math.hypot(a.x - b.x, a.y - b.y) : 0;
  };
  canvas.onpointerdown = (event) => {
    canvas.setPointerCapture(event.pointerId);
    fingers.set(event.pointerId, { x: event.clientX, y: event.clientY });
  };
  canvas.onpointermove = (event) => {
    const before = fingers.get(event.pointerId);
    if (!before) return;
    const apart = spread();
    fingers.set(event.pointerId, { x: event.clientX, y: event.clientY });
    const degrees = view.fov / stage.clientWidth;
    if (fingers.size > 1) zoom(apart / spread() || 1);
    else turn((before.x - event.clientX) * degrees, (event.clientY - before.y) * degrees);
  };
  canvas.onpointerup = canvas.onpointercancel = (event) => {
    fingers.delete(event.pointerId);
  };
  canvas.onwheel = (event) => {
    event.preventDefault();
    zoom(event.deltaY > 0 ? 1.1 : 1 / 1.1);
  };
  canvas.onkeydown = ({ key }) => {
    const turns: Record<string, [number, number]> = { ArrowLeft: [-6, 0], ArrowRight: [6, 0], ArrowUp: [0, 5], ArrowDown: [0, -5] };
    if (turns[key]) turn(...turns[key]);
    else if (key === '+' || key === '=') zoom(1 / 1.1);
    else if (key === '-') zoom(1.1);
  };
  addEventListener('resize', draw);
  view.azimuth = tour.points[0]!.headingDeg;
  open(0, 0);
  canvas.focus();
}

const div = (name: string): HTMLElement => Object.assign(document.createElement('div'), { className: name });
const dot = (a: Vec, b: Vec): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
/** Hotspots lie on the way rather than in the face of who stands there. */
const lowered = ([x, y, z]: Vec): [number, number, number] => [x, y, z - 0.7];

function directionOf(azimuthDeg: number, altitudeDeg: number): Vec {
  const level = Math.cos(altitudeDeg * RAD);
  return [Math.sin(azimuthDeg * RAD) * level, Math.cos(azimuthDeg * RAD) * level, Math.sin(altitudeDeg * RAD)];
}

function axesOf(azimuth: number, altitude: number): Record<'ahead' | 'right' | 'up', Vec> {
  const ahead = directionOf(azimuth, altitude);
  const right: Vec = [Math.cos(azimuth * RAD), -Math.sin(azimuth * RAD), 0];
  const up: Vec = [right[1] * ahead[2] - right[2] * ahead[1], right[2] * ahead[0] - right[0] * ahead[2], right[0] * ahead[1] - right[1] * ahead[0]];
  return { ahead, right, up };
} // prettier-ignore

const linked = ({ links }: Tour, point: number): number[] => links.flatMap(([a, b]) => (a === point ? [b] : b === point ? [a] : []));

function smaller(image: HTMLImageElement, most: number): HTMLCanvasElement {
  const canvas = Object.assign(document.createElement('canvas'), { width: most, height: Math.round((image.height * most) / image.width) });
  canvas.getContext('2d')!.drawImage(image, 0, 0, canvas.width, canvas.height);
  return canvas;
}

function programOf(gl: WebGLRenderingContext): WebGLProgram {
  const program = gl.createProgram();
  for (const [type, text] of [
    [gl.VERTEX_SHADER, 'attribute vec2 corner; varying vec2 place; void main() { place = corner; gl_Position = vec4(corner, 0.0, 1.0); }'],
    [gl.FRAGMENT_SHADER, SHADER],
  ] as const) {
    const shader = gl.createShader(type)!;
    gl.shaderSource(shader, text);
    gl.compileShader(shader);
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
  gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 3, -1, -1, 3]), gl.STATIC_DRAW);
  gl.enableVertexAttribArray(0);
  gl.vertexAttribPointer(0, 2, gl.FLOAT, false, 0, 0);
  return program;
}
