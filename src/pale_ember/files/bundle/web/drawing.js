// Matrices, programs, pictures and targets.

const radians = (degrees) => degrees * Math.PI / 180;

// Where the stage is seen from: right, up, back and the eye.
function axesOf(camera) {
  const sy = Math.sin(radians(camera.yaw)), cy = Math.cos(radians(camera.yaw));
  const sp = Math.sin(radians(camera.pitch)), cp = Math.cos(radians(camera.pitch));
  const back = [cp * sy, sp, cp * cy];
  return { right: [cy, 0, -sy], up: [-sp * sy, cp, -sp * cy], back, eye: camera.target.map((x, i) => x + camera.distance * back[i]) };
}

// Matrices are rows of rows here, and columns where OpenGL takes them.
function viewOf(axes) {
  const rows = [axes.right, axes.up, axes.back];
  return [...rows.map((row) => [...row, -(row[0] * axes.eye[0] + row[1] * axes.eye[1] + row[2] * axes.eye[2])]), [0, 0, 0, 1]];
}

function projectionOf(camera, width, height) {
  const near = Math.min(Math.max(camera.distance * 0.005, 1e-4), 0.25), far = camera.distance * 100 + 1000, high = 1 / Math.tan(radians(camera.view) / 2);
  return [[high * height / Math.max(width, 1), 0, 0, 0], [0, high, 0, 0], [0, 0, (far + near) / (near - far), 2 * far * near / (near - far)], [0, 0, -1, 0]];
}

const times = (a, b) => a.map((row) => b[0].map((_, j) => row.reduce((sum, x, k) => sum + x * b[k][j], 0)));
const columns = (m) => new Float32Array(m[0].flatMap((_, j) => m.map((row) => row[j])));

// By Gauss and Jordan.
function inverse(m) {
  const n = m.length, a = m.map((row, i) => [...row, ...row.map((_, j) => (i === j ? 1 : 0))]);
  for (let i = 0; i < n; i++) {
    let p = i;
    for (let k = i + 1; k < n; k++) if (Math.abs(a[k][i]) > Math.abs(a[p][i])) p = k;
    [a[i], a[p]] = [a[p], a[i]];
    const d = a[i][i];
    for (let j = 0; j < 2 * n; j++) a[i][j] /= d;
    for (let k = 0; k < n; k++) {
      if (k === i) continue;
      const f = a[k][i];
      for (let j = 0; j < 2 * n; j++) a[k][j] -= f * a[i][j];
    }
  }
  return a.map((row) => row.slice(n));
}

// The shaders are those of the bench; only their first line is another.
const HEAD = "#version 300 es\nprecision highp float;\nprecision highp int;\nprecision highp sampler2D;\nprecision highp sampler2DArray;\n";

class Programs {
  constructor(gl) {
    this.gl = gl;
    this.built = new Map();
  }

  get(vertex, fragment, features) {
    const key = [vertex, fragment, ...features].join(" ");
    if (!this.built.has(key)) this.built.set(key, this.build(vertex, fragment, features));
    return this.built.get(key);
  }

  build(vertex, fragment, features) {
    const gl = this.gl, program = gl.createProgram();
    for (const [kind, name] of [[gl.VERTEX_SHADER, `${vertex}.vert`], [gl.FRAGMENT_SHADER, `${fragment}.frag`]]) {
      const shader = gl.createShader(kind), body = SHADERS[name];
      gl.shaderSource(shader, HEAD + features.map((one) => `#define ${one}\n`).join("") + body.slice(body.indexOf("\n") + 1));
      gl.compileShader(shader);
      if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(`${name}: ${gl.getShaderInfoLog(shader)}`);
      gl.attachShader(program, shader);
    }
    gl.linkProgram(program);
    if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(`${vertex}, ${fragment}: ${gl.getProgramInfoLog(program)}`);
    const uniforms = {}, attributes = {};
    for (let i = 0; i < gl.getProgramParameter(program, gl.ACTIVE_UNIFORMS); i++) {
      const one = gl.getActiveUniform(program, i);
      uniforms[one.name.replace("[0]", "")] = { where: gl.getUniformLocation(program, one.name), type: one.type };
    }
    for (let i = 0; i < gl.getProgramParameter(program, gl.ACTIVE_ATTRIBUTES); i++) {
      const one = gl.getActiveAttrib(program, i);
      attributes[one.name] = gl.getAttribLocation(program, one.name);
    }
    return { program, uniforms, attributes };
  }

  // Tell the program in use a number, several, or a matrix in columns, if it asks for it.
  tell(program, name, value) {
    const gl = this.gl, one = program.uniforms[name];
    if (!one) return;
    const v = Array.isArray(value) || ArrayBuffer.isView(value) ? value : [value];
    const set = {
      [gl.FLOAT]: () => gl.uniform1fv(one.where, v), [gl.FLOAT_VEC2]: () => gl.uniform2fv(one.where, v), [gl.FLOAT_VEC3]: () => gl.uniform3fv(one.where, v),
      [gl.FLOAT_VEC4]: () => gl.uniform4fv(one.where, v), [gl.INT]: () => gl.uniform1iv(one.where, v), [gl.FLOAT_MAT3]: () => gl.uniformMatrix3fv(one.where, false, v),
      [gl.FLOAT_MAT4]: () => gl.uniformMatrix4fv(one.where, false, v),
    }[one.type];
    (set || (() => gl.uniform1iv(one.where, v)))();
  }
}

// A target for linear light, with a depth that can be read; or with several samples for each pixel.
function target(gl, width, height, depth, samples = 0) {
  const frame = gl.createFramebuffer(), found = { frame, width, height };
  gl.bindFramebuffer(gl.FRAMEBUFFER, frame);
  if (samples) {
    found.color = gl.createRenderbuffer();
    gl.bindRenderbuffer(gl.RENDERBUFFER, found.color);
    gl.renderbufferStorageMultisample(gl.RENDERBUFFER, samples, gl.RGBA16F, width, height);
    gl.framebufferRenderbuffer(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.RENDERBUFFER, found.color);
    found.depth = gl.createRenderbuffer();
    gl.bindRenderbuffer(gl.RENDERBUFFER, found.depth);
    gl.renderbufferStorageMultisample(gl.RENDERBUFFER, samples, gl.DEPTH_COMPONENT24, width, height);
    gl.framebufferRenderbuffer(gl.FRAMEBUFFER, gl.DEPTH_ATTACHMENT, gl.RENDERBUFFER, found.depth);
    return found;
  }
  found.color = flat(gl, gl.RGBA16F, width, height, gl.LINEAR);
  gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, found.color, 0);
  if (depth) {
    found.depth = flat(gl, gl.DEPTH_COMPONENT24, width, height, gl.NEAREST);
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.DEPTH_ATTACHMENT, gl.TEXTURE_2D, found.depth, 0);
  }
  return found;
}

function flat(gl, format, width, height, filter) {
  const texture = gl.createTexture();
  gl.bindTexture(gl.TEXTURE_2D, texture);
  gl.texStorage2D(gl.TEXTURE_2D, 1, format, width, height);
  for (const name of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER]) gl.texParameteri(gl.TEXTURE_2D, name, filter);
  for (const name of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(gl.TEXTURE_2D, name, gl.CLAMP_TO_EDGE);
  return texture;
}

function dispose(gl, one) {
  if (!one) return;
  gl.deleteFramebuffer(one.frame);
  for (const part of [one.color, one.depth]) {
    if (part instanceof WebGLTexture) gl.deleteTexture(part); else if (part) gl.deleteRenderbuffer(part);
  }
}

// A texture's frames as one array, with their smaller copies.
function frames(gl, place, one, parts, coded = false) {
  if (!place) return null;
  const texture = gl.createTexture(), values = pixels(place, one.width, parts), half = values instanceof Uint16Array;
  gl.bindTexture(gl.TEXTURE_2D_ARRAY, texture);
  gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
  const levels = Math.floor(Math.log2(Math.max(one.width, one.height))) + 1;
  const format = parts === 2 ? gl.RG16F : half ? gl.RGBA16F : coded ? gl.SRGB8_ALPHA8 : gl.RGBA8;
  gl.texStorage3D(gl.TEXTURE_2D_ARRAY, levels, format, one.width, one.height, one.frames);
  gl.texSubImage3D(gl.TEXTURE_2D_ARRAY, 0, 0, 0, 0, one.width, one.height, one.frames, parts === 2 ? gl.RG : gl.RGBA, half ? gl.HALF_FLOAT : gl.UNSIGNED_BYTE, values);
  gl.generateMipmap(gl.TEXTURE_2D_ARRAY);
  return texture;
}

// The polygons that frames are cut to: 8 corners by frames.
function polygons(gl, place, count) {
  const texture = flat(gl, gl.RG32F, 8, count, gl.NEAREST);
  gl.texSubImage2D(gl.TEXTURE_2D, 0, 0, 0, 8, count, gl.RG, gl.FLOAT, array(place));
  return texture;
}
