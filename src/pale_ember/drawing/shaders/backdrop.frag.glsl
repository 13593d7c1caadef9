#version 330 core
// Sky, ground and the floor's grid in metres, by one ray for each pixel.
uniform mat4 unproject;
uniform vec3 eye;
uniform vec3 zenith;
uniform vec3 horizon;
uniform vec3 ground;
uniform vec3 line_light;
uniform float cell;
uniform float grid;
in vec2 uv;
out vec4 pixel;

float lines(vec2 at, float width) {
    vec2 step = fwidth(at);
    vec2 near = abs(fract(at - 0.5) - 0.5) / max(step, vec2(1e-6));
    vec2 line = 1.0 - smoothstep(vec2(width - 0.5), vec2(width + 0.5), near);
    // Where lines crowd together they fade.
    line *= 1.0 - smoothstep(0.15, 0.5, step);
    return max(line.x, line.y);
}

void main() {
    vec4 far = unproject * vec4(uv * 2.0 - 1.0, 1.0, 1.0);
    vec3 ray = normalize(far.xyz / far.w - eye);
    vec3 sky = mix(horizon, zenith, smoothstep(0.0, 0.7, ray.y));
    float down = -ray.y * sign(eye.y + 1e-6);
    float reach = abs(eye.y) / max(down, 1e-5);
    vec2 at = (eye + ray * reach).xz;
    float haze = exp(-reach / (40.0 * cell + 12.0));
    vec3 floor_light = mix(horizon, ground, haze);
    float fade = exp(-reach / (14.0 * cell + 2.0)) * grid;
    floor_light += line_light * fade * (0.45 * lines(at / cell, 0.6) + 0.55 * lines(at / (5.0 * cell), 0.8));
    float seen = smoothstep(0.0, 0.004, down) * (eye.y >= 0.0 ? 1.0 : 0.5);
    pixel = vec4(mix(sky, floor_light, seen), 1.0);
}
