#version 330 core
// How many layers of particles lie over each pixel, as heat: ash, blue, ember, white.
uniform sampler2D counts;
uniform float swap;
uniform float flip;
in vec2 uv;
out vec4 pixel;
void main() {
    float n = texture(counts, vec2(uv.x, mix(uv.y, 1.0 - uv.y, flip))).r;
    // One layer, and then each doubling, is a step.
    float heat = n < 0.5 ? 0.0 : (1.0 + log2(max(n, 1.0))) / 8.0;
    vec3 found = mix(vec3(0.08, 0.085, 0.09), vec3(0.20, 0.32, 0.40), clamp(heat * 5.0, 0.0, 1.0));
    found = mix(found, vec3(0.56, 0.69, 0.75), clamp(heat * 5.0 - 1.0, 0.0, 1.0));
    found = mix(found, vec3(0.95, 0.70, 0.40), clamp(heat * 5.0 - 2.0, 0.0, 1.0));
    found = mix(found, vec3(0.90, 0.32, 0.16), clamp(heat * 5.0 - 3.0, 0.0, 1.0));
    found = mix(found, vec3(1.0), clamp(heat * 5.0 - 4.0, 0.0, 1.0));
    pixel = vec4(mix(found, found.bgr, swap), 1.0);
}
