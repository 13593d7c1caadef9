/* The plain layer's step and appearance as one would write them by hand: what the kernels are measured against.
   Rows as simulation/state.py has them; tables of 160 cells, (low, rise, high, rise) or (value, rise). */
#include <math.h>
#include <stdint.h>

static inline float draw(uint32_t h) {
    h ^= h >> 16; h *= 0x7FEB352Du; h ^= h >> 15; h *= 0x846CA68Bu; h ^= h >> 16;
    return (float)(int32_t)(h >> 8) * 0x1p-24f;
}

void step(float *restrict s, long stride, long n, float e0, float e1, float e2, float g) {
    for (int axis = 0; axis < 3; axis++) {
        float *restrict p = s + axis * stride, *restrict v = s + (3 + axis) * stride;
        float a = axis == 1 ? -g : 0.0f;
        for (long i = 0; i < n; i++) {
            float before = v[i];
            p[i] += before * e1 + a * e2;
            v[i] = before * e0 + a * e1;
        }
    }
}

long dead(const float *restrict s, long stride, long n, int now, float dt) {
    const float *since = s + 6 * stride, *aging = s + 7 * stride;
    const int32_t *born = (const int32_t *)(s + 10 * stride);
    long found = 0;
    for (long i = 0; i < n; i++) found += ((float)(now - born[i]) * dt + since[i]) * aging[i] >= 1.0f;
    return found;
}

void appear(const float *restrict s, long stride, const uint32_t *restrict serial, long n, int now, float dt,
            const float *restrict tables, float size, float *restrict out) {
    const float *px = s, *py = s + stride, *pz = s + 2 * stride, *since = s + 6 * stride, *aging = s + 7 * stride;
    const int32_t *born = (const int32_t *)(s + 10 * stride);
    const float *grow = tables, *opacity = tables + 640, *strength = tables + 1280, *color = tables + 1600;
    for (long i = 0; i < n; i++) {
        float age = ((float)(now - born[i]) * dt + since[i]) * aging[i];
        float f = age * 160.0f;
        int k = (int)f;
        k = k < 159 ? k : 159;
        float t = f - (float)k;
        float u = draw(serial[i] + 12345u), w = draw(serial[i] + 67890u);
        const float *a = grow + 4 * k, *b = opacity + 4 * k, *c = strength + 2 * k;
        float low = a[0] + a[1] * t, high = a[2] + a[3] * t, tall = size * (low + (high - low) * u);
        float thin = b[0] + b[1] * t, thick = b[2] + b[3] * t;
        float *o = out + 10 * i;
        o[0] = px[i]; o[1] = py[i]; o[2] = pz[i]; o[3] = tall; o[4] = tall;
        for (int j = 0; j < 3; j++) o[5 + j] = color[320 * j + 2 * k] + color[320 * j + 2 * k + 1] * t;
        o[8] = thin + (thick - thin) * w;
        o[9] = c[0] + c[1] * t;
    }
}
