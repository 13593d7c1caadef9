// The numbers of the page: unpacked once, then read where they lie.

const KINDS = { f32: Float32Array, u16: Uint16Array, u32: Uint32Array, i32: Int32Array, i16: Int16Array, u8: Uint8Array, f16: Uint16Array };
let memory = null;

async function unpack() {
  const text = document.getElementById("data").textContent;
  const letters = atob(text), bytes = new Uint8Array(letters.length);
  for (let i = 0; i < letters.length; i++) bytes[i] = letters.charCodeAt(i);
  const stream = new Blob([bytes]).stream().pipeThrough(new DecompressionStream("deflate"));
  memory = await new Response(stream).arrayBuffer();
}

// The array at a place: [where it begins, how many numbers, their kind].
function array(place) {
  return new KINDS[place[2]](memory, place[0], place[1]);
}

// The rest of a guess: low bytes before high ones, the sign in the lowest bit.
function unfolded(place) {
  const bytes = array(place), count = bytes.length / 2, out = new Uint16Array(count);
  for (let i = 0; i < count; i++) {
    const folded = bytes[i] | (bytes[count + i] << 8);
    out[i] = (folded >> 1) ^ -(folded & 1);
  }
  return out;
}

// Frames of a picture: what changes along their rows, summed up.
function pixels(place, width, parts) {
  if (place.halves) return array(place.halves);
  const out = new Uint8Array(array(place.bytes)), row = width * parts;
  for (let at = 0; at < out.length; at += row) for (let i = at + parts; i < at + row; i++) out[i] += out[i - parts];
  if (!place.levels) return out;
  const levels = array(place.levels);
  return Uint16Array.from(out, (level) => levels[level]);
}

// One layer in one stretch of time: how many there are at each moment, and their columns in levels.
class Track {
  constructor(place, layer) {
    this.counts = array(place.counts);
    this.layer = layer;
    this.starts = new Uint32Array(this.counts.length + 1);
    for (let i = 0; i < this.counts.length; i++) this.starts[i + 1] = this.starts[i] + this.counts[i];
    this.next = place.next ? array(place.next) : null;
    this.joints = place.joints ? array(place.joints) : null;
    this.columns = {};
    const ancestors = this.next ? this.ancestors() : null;
    for (const [name, parts] of Object.entries(place.columns)) {
      this.columns[name] = parts.map(([where, low, high]) => {
        const levels = unfolded(where);
        if (ancestors) this.goOn(levels, ...ancestors); else for (let i = 2; i < levels.length; i++) levels[i] += levels[i - 2];
        return { levels, low, scale: (high - low) / 65535 };
      });
    }
  }

  // For each row of all moments the row that it was one moment before, and two; -1 where it was not there.
  ancestors() {
    const total = this.starts[this.counts.length], one = new Int32Array(total).fill(-1), two = new Int32Array(total).fill(-1);
    for (let f = 0; f + 1 < this.counts.length; f++) {
      for (let i = 0; i < this.counts[f]; i++) {
        const here = this.starts[f] + i, shift = this.next[here];
        if (shift !== 32767) one[this.starts[f + 1] + i + shift] = here;
      }
    }
    for (let i = 0; i < total; i++) if (one[i] >= 0) two[i] = one[one[i]];
    return [one, two];
  }

  // Each goes on as before, but for the rest.
  goOn(levels, one, two) {
    for (let i = 0; i < levels.length; i++) {
      if (one[i] < 0) continue;
      levels[i] += levels[one[i]] + (two[i] < 0 ? 0 : levels[one[i]] - levels[two[i]]);
    }
  }

  // Columns at a share of the way from one moment to the next: {count, name: [Float32Array …]}.
  at(frame, share) {
    const count = this.counts[frame], start = this.starts[frame];
    const last = frame + 1 >= this.counts.length;
    if (last) share = 0;
    const ahead = last ? 0 : this.starts[frame + 1];
    const out = { count: 0 };
    // Of those that are gone by the next moment the first half of the way is shown; they can't be led on.
    const chosen = [], targets = [];
    for (let i = 0; i < count; i++) {
      const shift = share > 0 ? this.next[start + i] : 0;
      const gone = share > 0 && shift === 32767;
      if (gone && share >= 0.5) continue;
      chosen.push(start + i);
      targets.push(share === 0 || gone ? -1 : ahead + i + shift);
    }
    out.count = chosen.length;
    for (const [name, parts] of Object.entries(this.columns)) {
      out[name] = parts.map((part) => {
        const values = new Float32Array(chosen.length), { levels, low, scale } = part;
        const around = name === "angle" ? 2 * Math.PI : name === "frame" && !this.layer.holds ? this.layer.frames : 0;
        for (let i = 0; i < chosen.length; i++) {
          const a = low + levels[chosen[i]] * scale;
          if (targets[i] < 0) { values[i] = a; continue; }
          let way = levels[targets[i]] * scale + low - a;
          if (around > 0 && Math.abs(way) > around / 2) way -= Math.sign(way) * around;
          values[i] = a + way * share;
        }
        return values;
      });
    }
    if (out.turn && share > 0) this.turns(out, chosen, targets, share);
    return out;
  }

  // Quaternions lie on a ball: led on along the nearer way, and made of length 1 again.
  turns(out, chosen, targets, share) {
    const parts = this.columns.turn, read = (k, at) => parts[k].low + parts[k].levels[at] * parts[k].scale;
    for (let i = 0; i < chosen.length; i++) {
      if (targets[i] < 0) continue;
      let dot = 0;
      for (let k = 0; k < 4; k++) dot += read(k, chosen[i]) * read(k, targets[i]);
      let long = 0;
      const sign = dot < 0 ? -1 : 1;
      for (let k = 0; k < 4; k++) {
        const v = read(k, chosen[i]) * (1 - share) + sign * read(k, targets[i]) * share;
        out.turn[k][i] = v;
        long += v * v;
      }
      for (let k = 0; k < 4; k++) out.turn[k][i] /= Math.sqrt(long);
    }
  }

  // Ribbons as they are at a moment: they are not led on.
  strip(frame) {
    const count = this.counts[frame], start = this.starts[frame];
    const out = { count, joints: this.joints.subarray(start / 2, (start + count) / 2) };
    for (const [name, parts] of Object.entries(this.columns)) {
      out[name] = parts.map(({ levels, low, scale }) => Float32Array.from({ length: count }, (_, i) => low + levels[start + i] * scale));
    }
    return out;
  }
}

// A stretch of time: its moments, s, and what shines at each.
class Take {
  constructor(place, layers) {
    this.times = array(place.times);
    this.shines = array(place.shines);
    this.wide = this.shines.length / this.times.length;
    this.tracks = place.layers.map((one, i) => new Track(one, layers[i]));
  }

  // The last moment at or before a time since the first one, and how far it is to the next.
  find(time) {
    const t = this.times[0] + time;
    let low = 0, high = this.times.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.times[middle] <= t + 1e-5) low = middle; else high = middle - 1;
    }
    if (low + 1 >= this.times.length) return [low, 0];
    const share = (t - this.times[low]) / (this.times[low + 1] - this.times[low]);
    return [low, share < 1e-3 ? 0 : Math.min(share, 1)];
  }

  shine(frame) {
    return this.shines.subarray(frame * this.wide, (frame + 1) * this.wide);
  }
}
