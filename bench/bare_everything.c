/* The everything layer's step and appearance as one would write them by hand: every Value a band along life with dice of
   its own, wind through drag, drift, pull, swirl, turbulence of two octaves, a top speed, spin.
   It goes over blocks, so that a compiler makes each short loop into vectors. Rows as simulation/state.py has them;
   band k's table of 160 cells of (low, rise, high, rise) begins at 640 k. */
#include <math.h>
#include <stdint.h>

static inline uint32_t mix(uint32_t h) {
    h ^= h >> 16; h *= 0x7FEB352Du; h ^= h >> 15; h *= 0x846CA68Bu; return h ^ h >> 16;
}

static inline float draw(uint32_t h) { return (float)(int32_t)(mix(h) >> 8) * 0x1p-24f; }

enum { BLOCK = 512 };
#define EACH for (int i = 0; i < n; i++)

static void bands(const float *restrict tables, int which, const uint32_t *restrict serial, const float *restrict age, int n, float *restrict out) {
    const float *restrict table = tables + 640 * which;
    EACH {
        float f = age[i] * 160.0f;
        int k = (int)f;
        k = k < 159 ? k : 159;
        float t = f - (float)k, low = table[4 * k] + table[4 * k + 1] * t, high = table[4 * k + 2] + table[4 * k + 3] * t;
        out[i] = low + (high - low) * draw(serial[i] + 7919u * (uint32_t)which);
    }
}

#define CORNER(name, add) \
    uint32_t name##h = h + (add); name##h ^= name##h >> 15; name##h *= 0x846CA68Bu; name##h ^= name##h >> 16; \
    float name##0 = (float)((int32_t)name##h >> 22), name##1 = (float)((int32_t)(name##h << 10) >> 22), name##2 = (float)((int32_t)(name##h << 20) >> 22);
#define X 0x8DA6B343u
#define Y 0xD8163841u
#define Z 0xCB1AB31Fu
#define BLEND(i) lerp(lerp(lerp(a##i, b##i, u), lerp(c##i, d##i, u), v), lerp(lerp(e##i, f##i, u), lerp(g##i, k##i, u), v), w)

static inline float lerp(float a, float b, float t) { return a + (b - a) * t; }

/* The gradients of lattice gradient noise, with a quintic fade. */
static void gradients(const float *restrict px, const float *restrict py, const float *restrict pz, float scale, float ox, float oy, float oz,
                      uint32_t salt, int n, float *restrict gx, float *restrict gy, float *restrict gz) {
    EACH {
        float x = px[i] * scale + ox, y = py[i] * scale + oy, z = pz[i] * scale + oz, fx = floorf(x), fy = floorf(y), fz = floorf(z);
        uint32_t h = (uint32_t)(int32_t)fx * X + (uint32_t)(int32_t)fy * Y + (uint32_t)(int32_t)fz * Z + salt;
        x -= fx; y -= fy; z -= fz;
        float u = x * x * x * (x * (x * 6 - 15) + 10), v = y * y * y * (y * (y * 6 - 15) + 10), w = z * z * z * (z * (z * 6 - 15) + 10);
        float du = 30 * x * x * (x * (x - 2) + 1), dv = 30 * y * y * (y * (y - 2) + 1), dw = 30 * z * z * (z * (z - 2) + 1);
        CORNER(a, 0u) CORNER(b, X) CORNER(c, Y) CORNER(d, X + Y) CORNER(e, Z) CORNER(f, X + Z) CORNER(g, Y + Z) CORNER(k, X + Y + Z)
        float x1 = x - 1, y1 = y - 1, z1 = z - 1;
        float na = a0 * x + a1 * y + a2 * z, nb = b0 * x1 + b1 * y + b2 * z, nc = c0 * x + c1 * y1 + c2 * z, nd = d0 * x1 + d1 * y1 + d2 * z;
        float ne = e0 * x + e1 * y + e2 * z1, nf = f0 * x1 + f1 * y + f2 * z1, ng = g0 * x + g1 * y1 + g2 * z1, nk = k0 * x1 + k1 * y1 + k2 * z1;
        float low = lerp(na, nb, u), high = lerp(nc, nd, u), lower = lerp(ne, nf, u), higher = lerp(ng, nk, u);
        gx[i] = BLEND(0) + du * lerp(lerp(nb - na, nd - nc, v), lerp(nf - ne, nk - ng, v), w);
        gy[i] = BLEND(1) + dv * lerp(high - low, higher - lower, w);
        gz[i] = BLEND(2) + dw * (lerp(lower, higher, v) - lerp(low, high, v));
    }
}

enum { GRAVITY, DRAG, WIND, DRIFT, PULL = DRIFT + 3, SWIRL, TURBULENCE, TOP, SPIN, GROW, OPACITY, INTENSITY, COLOR };

static void step_block(float *restrict px, float *restrict py, float *restrict pz, float *restrict vx, float *restrict vy, float *restrict vz,
                       const float *restrict since, const float *restrict aging, float *restrict angle, const int32_t *restrict born,
                       const uint32_t *restrict serial, int n, int now, float dt, const float *restrict tables) {
    static float middle[BLOCK], end[BLOCK], dx[BLOCK], dy[BLOCK], dz[BLOCK], mx[BLOCK], my[BLOCK], mz[BLOCK], ax[BLOCK], ay[BLOCK], az[BLOCK];
    static float value[BLOCK], drag[BLOCK], last[BLOCK], g[6][BLOCK], stirred[3][BLOCK];
    EACH {
        end[i] = ((float)(now - born[i]) * dt + since[i]) * aging[i];
        float at = end[i] - 0.5f * dt * aging[i];
        middle[i] = at > 0.0f ? at : 0.0f;
    }
    bands(tables, DRIFT, serial, middle, n, dx); bands(tables, DRIFT + 1, serial, middle, n, dy); bands(tables, DRIFT + 2, serial, middle, n, dz);
    EACH {
        mx[i] = px[i] + 0.5f * dt * (vx[i] + dx[i]); my[i] = py[i] + 0.5f * dt * (vy[i] + dy[i]); mz[i] = pz[i] + 0.5f * dt * (vz[i] + dz[i]);
    }
    bands(tables, GRAVITY, serial, middle, n, value);
    EACH { ax[i] = 0.0f; ay[i] = -value[i]; az[i] = 0.0f; }
    bands(tables, PULL, serial, middle, n, value);
    EACH {
        float far = sqrtf(mx[i] * mx[i] + my[i] * my[i] + mz[i] * mz[i]), pull = value[i] / (far > 1e-6f ? far : 1e-6f);
        ax[i] -= mx[i] * pull; ay[i] -= my[i] * pull; az[i] -= mz[i] * pull;
    }
    bands(tables, SWIRL, serial, middle, n, value);
    EACH {
        float far = sqrtf(mx[i] * mx[i] + mz[i] * mz[i]), swirl = value[i] / (far > 1e-6f ? far : 1e-6f);
        ax[i] += mz[i] * swirl; az[i] -= mx[i] * swirl;
        stirred[0][i] = stirred[1][i] = stirred[2][i] = 0.0f;
    }
    float scale = 2.0f, level = 5.6e-6f;
    for (uint32_t octave = 0; octave < 2; octave++) {
        gradients(mx, my, mz, scale, 0.3f, 0.1f, 0.7f, 17u + octave, n, g[0], g[1], g[2]);
        gradients(mx, my, mz, scale, 0.9f, 0.4f, 0.2f, 91u + octave, n, g[3], g[4], g[5]);
        EACH {
            stirred[0][i] += (g[1][i] * g[5][i] - g[2][i] * g[4][i]) * level;
            stirred[1][i] += (g[2][i] * g[3][i] - g[0][i] * g[5][i]) * level;
            stirred[2][i] += (g[0][i] * g[4][i] - g[1][i] * g[3][i]) * level;
        }
        level *= 0.5f; scale *= 2.0f;
    }
    bands(tables, TURBULENCE, serial, middle, n, value);
    EACH { ax[i] += stirred[0][i] * value[i]; ay[i] += stirred[1][i] * value[i]; az[i] += stirred[2][i] * value[i]; }
    bands(tables, DRAG, serial, middle, n, drag); bands(tables, WIND, serial, middle, n, value);
    EACH { ax[i] += value[i] * drag[i] * 3.0f; az[i] += value[i] * drag[i]; }
    /* Held below a top speed in the step's middle and at its end. */
    bands(tables, TOP, serial, middle, n, value);
    EACH { end[i] = end[i] < 1.0f ? end[i] : 1.0f; }
    bands(tables, TOP, serial, end, n, last);
    EACH {
        float z = drag[i] * dt, e2 = 0.5f - z * (1.0f / 6 - z * (1.0f / 24 - z * (1.0f / 120))), e1 = 1.0f - z * e2, e0 = 1.0f - z * e1;
        e1 *= dt; e2 *= dt * dt;
        float h0 = sqrtf(e0), h1 = e1 / (1.0f + h0);
        float qx = vx[i] * h0 + ax[i] * h1, qy = vy[i] * h0 + ay[i] * h1, qz = vz[i] * h0 + az[i] * h1, fast = sqrtf(qx * qx + qy * qy + qz * qz);
        float wx = vx[i] * e0 + ax[i] * e1, wy = vy[i] * e0 + ay[i] * e1, wz = vz[i] * e0 + az[i] * e1, whole = sqrtf(wx * wx + wy * wy + wz * wz);
        float hold = fast > value[i] ? value[i] / fast : 1.0f, keep = whole > last[i] ? last[i] / whole : 1.0f;
        int held = (hold < 1.0f) | (keep < 1.0f);
        px[i] += (held ? qx * hold * dt : vx[i] * e1 + ax[i] * e2) + dx[i] * dt;
        py[i] += (held ? qy * hold * dt : vy[i] * e1 + ay[i] * e2) + dy[i] * dt;
        pz[i] += (held ? qz * hold * dt : vz[i] * e1 + az[i] * e2) + dz[i] * dt;
        vx[i] = wx * keep; vy[i] = wy * keep; vz[i] = wz * keep;
    }
    bands(tables, SPIN, serial, middle, n, value);
    EACH { angle[i] += value[i] * dt; }
}

void everything_step(float *s, long stride, const uint32_t *serial, long count, int now, float dt, const float *tables) {
    for (long at = 0; at < count; at += BLOCK) {
        int n = count - at < BLOCK ? (int)(count - at) : BLOCK;
        float *b = s + at;
        step_block(b, b + stride, b + 2 * stride, b + 3 * stride, b + 4 * stride, b + 5 * stride, b + 6 * stride, b + 7 * stride, b + 8 * stride,
                   (const int32_t *)(b + 10 * stride), serial + at, n, now, dt, tables);
    }
}

void everything_appear(const float *s, long stride, const uint32_t *serial, long count, int now, float dt, const float *tables, float size, float *restrict out) {
    static float age[BLOCK], grow[BLOCK], opacity[BLOCK], light[BLOCK], color[3][BLOCK];
    for (long at = 0; at < count; at += BLOCK) {
        int n = count - at < BLOCK ? (int)(count - at) : BLOCK;
        const float *b = s + at, *since = b + 6 * stride, *aging = b + 7 * stride;
        const int32_t *born = (const int32_t *)(b + 10 * stride);
        EACH { age[i] = ((float)(now - born[i]) * dt + since[i]) * aging[i]; }
        bands(tables, GROW, serial + at, age, n, grow); bands(tables, OPACITY, serial + at, age, n, opacity); bands(tables, INTENSITY, serial + at, age, n, light);
        for (int j = 0; j < 3; j++) bands(tables, COLOR + j, serial + at, age, n, color[j]);
        float *o = out + 11 * at;
        EACH {
            o[11 * i] = b[i]; o[11 * i + 1] = b[stride + i]; o[11 * i + 2] = b[2 * stride + i];
            o[11 * i + 3] = o[11 * i + 4] = size * grow[i];
            o[11 * i + 5] = color[0][i]; o[11 * i + 6] = color[1][i]; o[11 * i + 7] = color[2][i];
            o[11 * i + 8] = opacity[i]; o[11 * i + 9] = light[i]; o[11 * i + 10] = b[8 * stride + i];
        }
    }
}
