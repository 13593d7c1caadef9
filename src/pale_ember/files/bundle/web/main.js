// The page: time, camera, and what its controls do. After # may stand t (s), size (960x600), backdrop and paused.

const find = (id) => document.getElementById(id);
const wishes = new URLSearchParams(location.hash.slice(1));
const state = { time: 0, plays: true, speed: 1, backdrop: SCENE.backdrop, camera: { ...SCENE.camera, target: [...SCENE.camera.target] }, shown: "" };
let renderer = null, takes = [], last = 0;

// The stretch that a time lies in: the first one from the start, then the loop that closes.
function stretch(time) {
  if (takes.length < 2 || time < SCENE.duration) return [takes[0], Math.min(time, SCENE.duration)];
  return [takes[1], time % SCENE.duration];
}

function draw() {
  const canvas = find("canvas"), [wide, high] = wishes.has("size") ? wishes.get("size").split("x").map(Number) : [0, 0];
  const dense = Math.min(devicePixelRatio || 1, 2), width = wide || Math.max(Math.round(canvas.clientWidth * dense), 1), height = high || Math.max(Math.round(canvas.clientHeight * dense), 1);
  const [take, at] = stretch(state.time), [frame, share] = take.find(at);
  const looks = JSON.stringify([width, height, frame, share, takes.indexOf(take), state.camera, state.backdrop]);
  if (looks === state.shown) return;
  state.shown = looks;
  if (canvas.width !== width || canvas.height !== height) [canvas.width, canvas.height] = [width, height];
  renderer.resize(width, height);
  renderer.draw(take, frame, share, state.camera, state.backdrop, take.times[frame] * (1 - share) + (share > 0 ? take.times[frame + 1] * share : 0), at / SCENE.duration);
}

function tick(now) {
  if (state.plays) {
    state.time += Math.min((now - last) / 1000, 0.1) * state.speed;
    // Without a loop that closes it starts over; with one, it goes round in that.
    if (takes.length < 2 && state.time >= SCENE.duration) state.time %= SCENE.duration;
    if (takes.length > 1 && state.time >= 2 * SCENE.duration) state.time = SCENE.duration + (state.time % SCENE.duration);
  }
  last = now;
  show();
  requestAnimationFrame(tick);
}

function show() {
  draw();
  const at = state.time % SCENE.duration;
  if (document.activeElement !== find("time") || state.plays) find("time").value = at / SCENE.duration;
  find("clock").textContent = `${at.toFixed(2)} / ${SCENE.duration.toFixed(2)} s`;
  find("play").textContent = state.plays ? "Pause" : "Play";
}

function connect() {
  const canvas = find("canvas"), fingers = new Map();
  find("play").onclick = () => { state.plays = !state.plays; };
  find("start").onclick = () => { state.time = 0; };
  find("time").oninput = (event) => {
    // Dragged within the stretch that plays now.
    const base = takes.length > 1 && state.time >= SCENE.duration ? SCENE.duration : 0;
    state.time = base + Math.min(Number(event.target.value), 0.99999) * SCENE.duration;
    state.plays = false;
  };
  find("speed").onchange = (event) => { state.speed = Number(event.target.value); };
  for (const name of Object.keys(SCENE.backdrops)) find("backdrop").add(new Option(name, name, false, name === state.backdrop));
  find("backdrop").onchange = (event) => { state.backdrop = event.target.value; };
  find("view").onclick = () => { state.camera = { ...SCENE.camera, target: [...SCENE.camera.target] }; };
  canvas.onpointerdown = (event) => {
    canvas.setPointerCapture(event.pointerId);
    canvas.focus();
    fingers.set(event.pointerId, [event.clientX, event.clientY]);
  };
  canvas.onpointermove = (event) => {
    const was = fingers.get(event.pointerId);
    if (!was) return;
    const dx = event.clientX - was[0], dy = event.clientY - was[1];
    if (fingers.size === 2) {
      const other = [...fingers].find(([id]) => id !== event.pointerId)[1], spread = (p) => Math.hypot(p[0] - other[0], p[1] - other[1]);
      nearer(spread(was) / Math.max(spread([event.clientX, event.clientY]), 1));
    } else if (event.buttons & 6 || event.shiftKey) pan(dx, dy);
    else turn(-dx * 0.4, dy * 0.4);
    fingers.set(event.pointerId, [event.clientX, event.clientY]);
  };
  canvas.onpointerup = canvas.onpointercancel = (event) => fingers.delete(event.pointerId);
  canvas.oncontextmenu = (event) => event.preventDefault();
  canvas.addEventListener("wheel", (event) => { event.preventDefault(); nearer(1.0015 ** event.deltaY); }, { passive: false });
  const keys = {
    ArrowLeft: () => turn(-5, 0), ArrowRight: () => turn(5, 0), ArrowUp: () => turn(0, 5), ArrowDown: () => turn(0, -5), PageUp: () => nearer(1 / 1.15), PageDown: () => nearer(1.15),
    Home: () => { state.time = 0; }, f: () => find("view").click(),
  };
  addEventListener("keydown", (event) => {
    if (event.target.matches("select, input")) return;
    if (event.key === " " && !event.target.matches("button")) { event.preventDefault(); state.plays = !state.plays; }
    else if (keys[event.key] && !event.ctrlKey && !event.metaKey) { event.preventDefault(); keys[event.key](); }
  });
}

function turn(yaw, pitch) {
  state.camera.yaw += yaw;
  state.camera.pitch = Math.max(-89, Math.min(89, state.camera.pitch + pitch));
}

function nearer(share) {
  state.camera.distance = Math.max(0.01, Math.min(1e5, state.camera.distance * share));
}

function pan(dx, dy) {
  const axes = axesOf(state.camera), metre = 2 * state.camera.distance * Math.tan(radians(state.camera.view) / 2) / Math.max(find("canvas").clientHeight, 1);
  state.camera.target = state.camera.target.map((x, i) => x - axes.right[i] * dx * metre + axes.up[i] * dy * metre);
}

async function begin() {
  const gl = find("canvas").getContext("webgl2", { antialias: false, alpha: false, preserveDrawingBuffer: true });
  if (!gl || !gl.getExtension("EXT_color_buffer_float")) throw new Error("This browser can’t draw it: it needs WebGL 2 with targets of floating point.");
  for (const layer of SCENE.layers) {
    const frames = layer.uniforms.find(([name]) => name === "frames");
    layer.frames = frames ? frames[1] : 0;
    layer.holds = layer.features.includes("HOLDS");
  }
  await unpack();
  takes = SCENE.takes.map((one) => new Take(one, SCENE.layers));
  renderer = new Renderer(gl);
  if (SCENE.backdrops[wishes.get("backdrop")]) state.backdrop = wishes.get("backdrop");
  // An effect that loops begins in full swing; a time that is asked for is one from the very start.
  state.time = wishes.has("t") ? Number(wishes.get("t")) : takes.length > 1 ? SCENE.duration : 0;
  state.plays = !wishes.has("paused");
  connect();
  show();
  find("said").textContent = "";
  document.documentElement.dataset.ready = "yes";
  requestAnimationFrame((now) => { last = now; tick(now); });
}

begin().catch((wrong) => {
  find("said").textContent = wrong.message;
  document.documentElement.dataset.ready = "no";
});
