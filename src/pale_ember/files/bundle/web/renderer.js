// A moment and a camera to a picture: what stands behind, particles, glow, and development.

const UNDER = 12, MOST_SHINES = 8, SAMPLES = 4, GLOW_HEIGHT = 540, SPREADS = 4, LEAST = 0.02;

// How many levels of glow a picture needs at most, each half as large as the one before.
const levelCount = (height) => Math.max(Math.floor(SPREADS - 1 + Math.log2(Math.max(height, 1) / GLOW_HEIGHT)) + 2, 1);

class Renderer {
  constructor(gl) {
    this.gl = gl;
    this.programs = new Programs(gl);
    this.stream = gl.createBuffer();
    this.array = gl.createVertexArray();
    gl.bindVertexArray(this.array);
    this.pictures = SCENE.pictures.map((one) => ({
      ...one, picture: frames(gl, one.picture, one, 4, one.coded), normals: frames(gl, one.normals, one, 4), motion: frames(gl, one.motion, one, 2),
      corners: polygons(gl, one.corners, one.frames), joint_corners: polygons(gl, one.joint_corners, one.frames),
    }));
    this.samplers = new Map();
    this.bodies = {};
    for (const [name, place] of Object.entries(SCENE.props.bodies)) this.bodies[name] = { buffer: this.held(array(place)), count: place[1] / 6 };
    this.things = SCENE.props.things.map((one) => ({ ...one, poses: array(one.poses), turns: array(one.turns) }));
    for (const layer of SCENE.layers) {
      layer.meshes = (layer.body || []).map(([points, faces]) => ({ points: this.held(array(points)), faces: this.held(array(faces), gl.ELEMENT_ARRAY_BUFFER), count: faces[1] }));
    }
    // What has edges of its own is drawn with several samples for each pixel.
    this.meshes = SCENE.layers.some((layer) => layer.draw === "mesh");
    this.smooth = this.meshes || this.things.length > 0;
    this.width = this.height = 0;
  }

  held(values, kind = this.gl.ARRAY_BUFFER) {
    const gl = this.gl, buffer = gl.createBuffer();
    gl.bindBuffer(kind, buffer);
    gl.bufferData(kind, values, gl.STATIC_DRAW);
    return buffer;
  }

  resize(width, height) {
    if (width === this.width && height === this.height) return;
    const gl = this.gl;
    for (const one of [this.scene, this.behind, this.fine, ...(this.glow || [])]) dispose(gl, one);
    [this.width, this.height] = [width, height];
    this.scene = target(gl, width, height, true);
    this.behind = SCENE.solid ? target(gl, width, height, true) : null;
    this.fine = this.smooth ? target(gl, width, height, true, SAMPLES) : null;
    this.glow = [];
    let [w, h] = [Math.max(width >> 1, 1), Math.max(height >> 1, 1)];
    for (let i = 0, count = levelCount(height); i < count; i++) {
      [w, h] = [Math.max(w >> 1, 1), Math.max(h >> 1, 1)];
      this.glow.push(target(gl, w, h, false));
    }
  }

  use(one) {
    this.gl.bindFramebuffer(this.gl.FRAMEBUFFER, one ? one.frame : null);
    this.gl.viewport(0, 0, one ? one.width : this.width, one ? one.height : this.height);
  }

  // Draw what a take has at a frame and a share of the way to the next one.
  draw(take, frame, share, camera, backdrop, clock, phase) {
    const gl = this.gl, axes = axesOf(camera), view = viewOf(axes), projection = projectionOf(camera, this.width, this.height);
    const whole = times(projection, view);
    this.now = { camera, axes, view, projection, whole: columns(whole), unproject: columns(inverse(whole)), lights: SCENE.backdrops[backdrop], backdrop, clock, phase };
    this.now.shine = take.shine(frame);
    if (this.fine) {
      this.use(this.fine);
      this.layBehind();
      if (this.behind) this.copy(this.fine, this.behind, gl.DEPTH_BUFFER_BIT);
      this.copy(this.fine, this.scene, gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
    } else {
      this.use(this.scene);
      this.layBehind();
      if (this.behind) this.copy(this.scene, this.behind, gl.DEPTH_BUFFER_BIT);
    }
    const onto = this.meshes ? this.fine : this.scene;
    this.use(onto);
    if (SCENE.solid && this.now.shine[0] > 0) this.shine();
    this.drawParticles(take, frame, share);
    if (this.meshes) this.copy(this.fine, this.scene, gl.COLOR_BUFFER_BIT);
    this.spread();
    this.develop();
  }

  copy(from, to, what) {
    const gl = this.gl;
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, from.frame);
    gl.bindFramebuffer(gl.DRAW_FRAMEBUFFER, to.frame);
    gl.blitFramebuffer(0, 0, this.width, this.height, 0, 0, this.width, this.height, what, gl.NEAREST);
  }

  screen(name, features = []) {
    const program = this.programs.get("screen", name, features);
    this.gl.useProgram(program.program);
    return program;
  }

  fill() {
    this.bare();
    this.gl.drawArrays(this.gl.TRIANGLES, 0, 3);
  }

  bare() {
    for (let i = 0; i < 16; i++) this.gl.disableVertexAttribArray(i);
  }

  bind(unit, texture, kind = this.gl.TEXTURE_2D) {
    this.gl.activeTexture(this.gl.TEXTURE0 + unit);
    this.gl.bindTexture(kind, texture);
    this.gl.bindSampler(unit, null);
  }

  layBehind() {
    const gl = this.gl, { axes, projection, lights, backdrop, camera } = this.now, p = this.programs;
    gl.disable(gl.BLEND);
    gl.disable(gl.CULL_FACE);
    gl.enable(gl.DEPTH_TEST);
    gl.depthMask(true);
    gl.depthFunc(gl.ALWAYS);
    const pictured = backdrop === "picture" && SCENE.behind >= 0, program = this.screen("backdrop", pictured ? ["PICTURE"] : []);
    const tell = (name, value) => p.tell(program, name, value);
    tell("unproject", this.now.unproject);
    tell("eye", axes.eye);
    for (const name of ["zenith", "horizon", "ground"]) tell(name, lights[name]);
    tell("line_light", lights.line);
    tell("cell", 10 ** Math.max(0, Math.floor(Math.log10(Math.max(camera.distance, 1e-3) / 6))));
    tell("grid", SCENE.floor ? 1 : 0);
    tell("floor_there", SCENE.floor ? 1 : 0);
    tell("checker", lights.checker);
    tell("depths", [projection[2][2], projection[2][3]]);
    tell("ahead", axes.back.map((x) => -x));
    tell("solid", SCENE.floor ? 1 : 0);
    if (pictured) {
      const one = this.pictures[SCENE.behind], shape = projection[1][1] / projection[0][0] / (one.width / one.height);
      tell("panorama", one.width / one.height >= SCENE.around[0] && one.width / one.height <= SCENE.around[1] ? 1 : 0);
      tell("fit", [Math.min(shape, 1), Math.min(1 / shape, 1)]);
      this.bind(0, one.picture, gl.TEXTURE_2D_ARRAY);
      gl.bindSampler(0, this.sampler(true, true));
      tell("picture", 0);
    }
    this.fill();
    gl.depthFunc(gl.LEQUAL);
    this.drawThings([]);
    gl.disable(gl.DEPTH_TEST);
  }

  // The light that layers throw on floor and things.
  shine() {
    const gl = this.gl;
    gl.enable(gl.DEPTH_TEST);
    gl.depthFunc(gl.LEQUAL);
    gl.enable(gl.BLEND);
    gl.blendFunc(gl.ONE, gl.ONE);
    gl.depthMask(false);
    if (SCENE.floor) this.shineFloor();
    gl.enable(gl.POLYGON_OFFSET_FILL);
    gl.polygonOffset(-2, -200);
    this.drawThings(["SHINES"]);
    gl.disable(gl.POLYGON_OFFSET_FILL);
    gl.depthMask(true);
    gl.disable(gl.BLEND);
    gl.disable(gl.DEPTH_TEST);
  }

  tellShines(program) {
    const shine = this.now.shine;
    this.programs.tell(program, "count", [Math.round(shine[0])]);
    this.programs.tell(program, "places", shine.subarray(1, 1 + 4 * MOST_SHINES));
    this.programs.tell(program, "colors", shine.subarray(1 + 4 * MOST_SHINES));
  }

  shineFloor() {
    const gl = this.gl, program = this.screen("shine"), tell = (name, value) => this.programs.tell(program, name, value);
    gl.disable(gl.DEPTH_TEST);
    tell("unproject", this.now.unproject);
    tell("eye", this.now.axes.eye);
    tell("size", [this.width, this.height]);
    this.tellShines(program);
    this.bind(0, this.behind.depth);
    tell("behind", 0);
    this.fill();
    gl.enable(gl.DEPTH_TEST);
  }

  drawThings(features) {
    const gl = this.gl, program = this.programs.get("solid", "solid", features), { lights, phase } = this.now, tell = (name, value) => this.programs.tell(program, name, value);
    gl.useProgram(program.program);
    tell("whole", this.now.whole);
    if (features.length) this.tellShines(program);
    tell("key_from", lights.key_from);
    tell("key_light", lights.key);
    tell("sky_light", lights.sky);
    tell("ground_light", lights.bounce);
    for (const one of this.things) {
      const at = Math.round(phase * (one.poses.length / 16 - 1)), body = this.bodies[one.body];
      tell("pose", one.poses.subarray(16 * at, 16 * at + 16));
      tell("turn", one.turns.subarray(9 * at, 9 * at + 9));
      tell("paint", one.paint);
      this.bare();
      gl.bindBuffer(gl.ARRAY_BUFFER, body.buffer);
      this.attribute(program, "in_place", 3, 24, 0, 0);
      this.attribute(program, "in_normal", 3, 24, 12, 0);
      gl.drawArrays(gl.TRIANGLES, 0, body.count);
    }
  }

  attribute(program, name, parts, stride, offset, divisor) {
    const at = program.attributes[name];
    if (at === undefined) return;
    this.gl.enableVertexAttribArray(at);
    this.gl.vertexAttribPointer(at, parts, this.gl.FLOAT, false, stride, offset);
    this.gl.vertexAttribDivisor(at, divisor);
  }

  drawParticles(take, frame, share) {
    const gl = this.gl;
    gl.enable(gl.BLEND);
    if (SCENE.solid || SCENE.layers.some((layer) => layer.solid)) gl.enable(gl.DEPTH_TEST);
    const order = SCENE.layers.map((layer, i) => [layer.order, i]).sort((a, b) => a[0] - b[0] || a[1] - b[1]);
    for (const [, i] of order) {
      const layer = SCENE.layers[i], track = take.tracks[i];
      gl.depthMask(layer.solid);
      if (layer.blend === "multiply") gl.blendFuncSeparate(gl.ZERO, gl.SRC_COLOR, gl.ONE, gl.ONE_MINUS_SRC_ALPHA);
      else if (layer.blend === "cutout") gl.blendFunc(gl.ONE, gl.ZERO);
      else gl.blendFunc(gl.ONE, gl.ONE_MINUS_SRC_ALPHA);
      if (layer.draw === "ribbon") this.drawRibbons(layer, track.strip(frame));
      else {
        const rows = this.inOrder(layer, this.gathered(layer, track.at(frame, share)));
        if (rows.count) this[layer.draw === "mesh" ? "drawMeshes" : "drawSprites"](layer, rows);
      }
    }
    gl.depthMask(true);
    gl.disable(gl.BLEND);
    gl.disable(gl.DEPTH_TEST);
  }

  // A box that goes with the camera is repeated over the floor: of each particle the nearest is drawn.
  gathered(layer, rows) {
    if (!layer.around) return rows;
    for (const [axis, wide] of [[0, layer.around[0]], [2, layer.around[1]]]) {
      if (wide <= 1e-3) continue;
      const place = rows.place[axis], middle = this.now.camera.target[axis];
      for (let i = 0; i < rows.count; i++) place[i] -= wide * Math.round((place[i] - middle) / wide);
    }
    return rows;
  }

  inOrder(layer, rows) {
    if (layer.any_order || layer.sort === "none" || layer.sort === "old" || rows.count < 2) return rows;
    let order = Uint32Array.from({ length: rows.count }, (_, i) => i);
    if (layer.sort === "young") order.reverse();
    else {
      const [x, y, z] = rows.place, back = this.now.axes.back, depth = Float32Array.from(order, (i) => x[i] * back[0] + y[i] * back[1] + z[i] * back[2]);
      order = order.sort((a, b) => depth[a] - depth[b] || a - b);
    }
    const out = { count: rows.count };
    for (const name of Object.keys(rows)) if (name !== "count") out[name] = rows[name].map((values) => Float32Array.from(order, (i) => values[i]));
    return out;
  }

  sampler(smooth, wrap, anisotropic) {
    const key = `${smooth} ${wrap} ${anisotropic}`, gl = this.gl;
    if (!this.samplers.has(key)) {
      const one = gl.createSampler(), edge = wrap ? gl.REPEAT : gl.CLAMP_TO_EDGE;
      gl.samplerParameteri(one, gl.TEXTURE_WRAP_S, edge);
      gl.samplerParameteri(one, gl.TEXTURE_WRAP_T, edge);
      gl.samplerParameteri(one, gl.TEXTURE_MIN_FILTER, smooth ? gl.LINEAR_MIPMAP_LINEAR : gl.NEAREST_MIPMAP_NEAREST);
      gl.samplerParameteri(one, gl.TEXTURE_MAG_FILTER, smooth ? gl.LINEAR : gl.NEAREST);
      const slim = gl.getExtension("EXT_texture_filter_anisotropic");
      if (slim && smooth && anisotropic) gl.samplerParameterf(one, slim.TEXTURE_MAX_ANISOTROPY_EXT, 4);
      this.samplers.set(key, one);
    }
    return this.samplers.get(key);
  }

  tellScene(program, layer) {
    const gl = this.gl, { axes, projection, lights } = this.now, tell = (name, value) => this.programs.tell(program, name, value);
    gl.useProgram(program.program);
    tell("whole", this.now.whole);
    tell("axes", new Float32Array([...axes.right, ...axes.up, ...axes.back]));
    tell("lens", [projection[0][0], projection[1][1]]);
    tell("depths", [projection[2][2], projection[2][3]]);
    tell("height", this.height);
    tell("clock", this.now.clock);
    tell("key_from", lights.key_from);
    tell("key_light", lights.key);
    tell("sky_light", lights.sky);
    tell("ground_light", lights.bounce);
    tell("eye", axes.eye);
    for (const [name, value] of layer.uniforms) tell(name, value);
    layer.units.forEach(([name, picture, part, wrap, anisotropic], unit) => {
      if (!program.uniforms[name]) return;
      const one = this.pictures[picture];
      if (name === "corners") this.bind(unit, one[part]);
      else {
        this.bind(unit, one[part], gl.TEXTURE_2D_ARRAY);
        gl.bindSampler(unit, this.sampler(one.smooth, wrap, anisotropic));
      }
      tell(name, unit);
    });
    if (program.uniforms.behind) {
      this.bind(UNDER, this.behind.depth);
      tell("behind", UNDER);
    }
  }

  // Columns one after the other in the buffer for what is different each time.
  pour(parts, count) {
    const gl = this.gl, wide = parts.reduce((sum, [, values]) => sum + values.length, 0), data = new Float32Array(wide * count), places = [];
    let at = 0;
    for (const [name, values] of parts) {
      places.push([name, values.length, at * 4]);
      for (let i = 0; i < count; i++) for (let k = 0; k < values.length; k++) data[i * wide + at + k] = typeof values[k] === "number" ? values[k] : values[k][i];
      at += values.length;
    }
    gl.bindBuffer(gl.ARRAY_BUFFER, this.stream);
    gl.bufferData(gl.ARRAY_BUFFER, data, gl.STREAM_DRAW);
    return [places, wide * 4];
  }

  drawSprites(layer, rows) {
    const gl = this.gl, program = this.programs.get("particle", "particle", layer.features);
    this.tellScene(program, layer);
    const [places, stride] = this.pour(Object.entries(rows).filter(([name]) => name !== "count"), rows.count);
    this.bare();
    for (const [name, parts, offset] of places) this.attribute(program, `in_${name}`, parts, stride, offset, 1);
    gl.drawArraysInstanced(gl.TRIANGLE_STRIP, 0, layer.corners, rows.count);
  }

  drawMeshes(layer, rows) {
    const gl = this.gl, carried = new Set(Object.keys(SCENE.plain).map((name) => name.toUpperCase()));
    const program = this.programs.get("mesh", "particle", [...layer.features.filter((one) => !carried.has(one)), "BODY"].sort());
    this.tellScene(program, layer);
    const of = (name) => rows[name] || layer.fixed[name] || SCENE.plain[name];
    // Of "size.x" the first number of size; numbers that all share stand for themselves.
    const numbers = (part) => {
      const [name, letter] = part.split(".");
      return letter ? [of(name)["xyzw".indexOf(letter)]] : of(name);
    };
    const parts = Object.entries(SCENE.mesh_attributes).map(([name, some]) => [name, some.flatMap(numbers)]);
    const lot = of("lot"), which = (i) => Math.min(Math.floor((typeof lot[0] === "number" ? lot[0] : lot[0][i]) * layer.meshes.length), layer.meshes.length - 1);
    const through = (layer.blend === "alpha" || layer.blend === "mix") && layer.faces === "both";
    const passes = through ? [gl.FRONT, gl.BACK] : { outer: [gl.BACK], inner: [gl.FRONT], both: [0] }[layer.faces];
    for (const cull of passes) {
      if (cull) { gl.enable(gl.CULL_FACE); gl.cullFace(cull); }
      layer.meshes.forEach((mesh, number) => {
        const some = [];
        for (let i = 0; i < rows.count; i++) if (which(i) === number) some.push(i);
        if (!some.length) return;
        const chosen = parts.map(([name, values]) => [name, values.map((v) => (typeof v === "number" ? v : Float32Array.from(some, (i) => v[i])))]);
        const [places, stride] = this.pour(chosen, some.length);
        this.bare();
        for (const [name, wide, offset] of places) this.attribute(program, `in_${name}`, wide, stride, offset, 1);
        gl.bindBuffer(gl.ARRAY_BUFFER, mesh.points);
        this.attribute(program, "in_point", 4, 32, 0, 0);
        this.attribute(program, "in_normal", 4, 32, 16, 0);
        gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, mesh.faces);
        gl.drawElementsInstanced(gl.TRIANGLES, mesh.count, gl.UNSIGNED_INT, 0, some.length);
      });
      if (cull) gl.disable(gl.CULL_FACE);
    }
  }

  drawRibbons(layer, strip) {
    if (!strip.count) return;
    const gl = this.gl, program = this.programs.get("ribbon", "particle", [...layer.features, "BAND"].sort());
    if (layer.turns) this.turnRibbons(strip);
    this.tellScene(program, layer);
    const [places, stride] = this.pour(Object.entries(strip).filter(([name]) => name !== "count" && name !== "joints"), strip.count);
    this.bare();
    for (const [name, parts, offset] of places) this.attribute(program, `in_${name}`, parts, stride, offset, 0);
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, strip.count);
  }

  // Let bands that were laid for the effect's own camera face the one that there is now.
  turnRibbons(strip) {
    const eye = this.now.axes.eye, from = SCENE.eye, pairs = strip.count / 2, [x, y, z] = strip.place;
    if (Math.hypot(eye[0] - from[0], eye[1] - from[1], eye[2] - from[2]) < 1e-6 * SCENE.camera.distance) return;
    const middle = (k) => [(x[2 * k] + x[2 * k + 1]) / 2, (y[2 * k] + y[2 * k + 1]) / 2, (z[2 * k] + z[2 * k + 1]) / 2];
    const cross = (a, b) => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
    const middles = Array.from({ length: pairs }, (_, k) => middle(k));
    for (let k = 0; k < pairs; k++) {
      if (strip.joints[k]) continue;
      const before = k > 0 && !strip.joints[k - 1] ? middles[k - 1] : middles[k], behind = k + 1 < pairs && !strip.joints[k + 1] ? middles[k + 1] : middles[k];
      const ahead = [behind[0] - before[0], behind[1] - before[1], behind[2] - before[2]], at = middles[k];
      const half = [(x[2 * k + 1] - x[2 * k]) / 2, (y[2 * k + 1] - y[2 * k]) / 2, (z[2 * k + 1] - z[2 * k]) / 2], wide = Math.hypot(...half);
      const was = cross(ahead, from.map((v, i) => v - at[i])), side = cross(ahead, eye.map((v, i) => v - at[i])), long = Math.hypot(...side);
      if (long < 1e-9 || wide === 0) continue;
      const scale = (was[0] * half[0] + was[1] * half[1] + was[2] * half[2] < 0 ? -wide : wide) / long;
      [x, y, z].forEach((values, i) => { values[2 * k] = at[i] - side[i] * scale; values[2 * k + 1] = at[i] + side[i] * scale; });
    }
    for (let k = 1; k + 1 < pairs; k++) {
      if (strip.joints[k]) for (const values of [x, y, z]) { values[2 * k] = values[2 * k - 1]; values[2 * k + 1] = values[2 * k + 2]; }
    }
  }

  // Glow is as wide a share of the picture whatever its size: a picture of another size has the usual one's levels
  // somewhere between two of its own; what would be finer than the finest stays where it is.
  glowShares() {
    const weight = Math.max(2 * SCENE.glow_reach, 1e-3), shift = Math.log2(Math.max(this.height, 1) / GLOW_HEIGHT);
    const parts = this.glow.map(() => 0), powers = Array.from({ length: SPREADS }, (_, i) => weight ** i);
    const whole = powers.reduce((sum, one) => sum + one, 0);
    let unspread = 0;
    powers.forEach((power, i) => {
      const at = Math.floor(i + shift), part = (4 ** (i + shift - at) - 1) / 3;
      for (const [level, share] of [[at, power * (1 - part) / whole], [at + 1, power * part / whole]]) {
        if (level < 0) unspread += share;
        else if (share > 0) parts[level] += share;
      }
    });
    let beyond = 0, nearest = 0;
    for (let i = parts.length - 1; i >= 0; i--) {
      const share = parts[i];
      if (share > 0 && share < LEAST * beyond) { parts[i] = 0; parts[nearest] += share; }
      else if (share > 0) nearest = i;
      beyond += share;
    }
    return { parts, unspread };
  }

  spread() {
    const gl = this.gl, pass = (name, source, onto, step, share) => {
      this.use(onto);
      const program = this.screen(name);
      this.bind(0, source.color);
      this.programs.tell(program, "source", 0);
      this.programs.tell(program, "texel", [step / source.width, step / source.height]);
      this.programs.tell(program, "share", share);
      this.fill();
    };
    const { parts, unspread } = this.glowShares(), used = parts.reduce((last, part, i) => (part > 0 ? i : last), 0);
    let source = this.scene, ahead = parts[used];
    for (const level of this.glow.slice(0, used + 1)) {
      pass("shrink", source, level, source === this.scene ? 1 : 0.5, 0);
      source = level;
    }
    gl.blendFunc(gl.ONE, gl.ONE);
    for (let i = used - 1; i >= 0; i--) {
      const own = parts[i] > 0;
      if (own) gl.enable(gl.BLEND);
      else gl.disable(gl.BLEND);
      pass("widen", this.glow[i + 1], this.glow[i], 1, own ? ahead / parts[i] : 1);
      ahead = own ? parts[i] : ahead;
    }
    gl.disable(gl.BLEND);
    this.glowShare = 1 - unspread;
    this.glowScale = this.glowShare > 0 ? ahead / this.glowShare : 0;
  }

  develop() {
    this.use(null);
    const program = this.screen("develop"), tell = (name, value) => this.programs.tell(program, name, value);
    this.bind(0, this.scene.color);
    this.bind(1, this.glow[0].color);
    tell("scene", 0);
    tell("glow", 1);
    tell("cut", [0, 0, 1, 1]);
    for (const name of ["swap", "flip", "clear", "plain"]) tell(name, 0);
    tell("glow_share", SCENE.glow * this.glowShare);
    tell("glow_scale", this.glowScale);
    tell("exposed", 2 ** SCENE.exposure);
    this.fill();
  }
}
