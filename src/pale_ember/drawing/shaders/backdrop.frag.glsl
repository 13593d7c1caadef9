#version 330 core
// Sky, ground and the floor's grid in metres, by one ray for each pixel; or squares; or a picture.
uniform mat4 unproject;
uniform vec3 eye;
uniform vec3 zenith;
uniform vec3 horizon;
uniform vec3 ground;
uniform vec3 line_light;
uniform float cell;
uniform float grid;
uniform float floor_there;
uniform float checker;  // the width of a square, pixels; 0 for none
uniform vec2 depths;
uniform vec3 ahead;  // where the eye looks, of length 1
uniform float solid;
#ifdef PICTURE
uniform sampler2DArray picture;
uniform float panorama;
uniform vec2 fit;
#endif
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
    vec3 below = mix(horizon, ground, haze);
    if (checker > 0.0) {
        vec2 square = floor(gl_FragCoord.xy / checker);
        sky = below = mod(square.x + square.y, 2.0) < 0.5 ? zenith : ground;
    }
#ifdef PICTURE
    if (panorama > 0.5) {
        vec2 around = vec2(atan(ray.x, -ray.z) / 6.2831853 + 0.5, acos(clamp(ray.y, -1.0, 1.0)) / 3.1415927);
        // Where the picture's ends meet, its smaller copies would be read.
        sky = below = textureLod(picture, vec3(around, 0.0), 0.0).rgb;
    } else {
        sky = below = texture(picture, vec3((vec2(uv.x, 1.0 - uv.y) - 0.5) * fit + 0.5, 0.0)).rgb;
    }
#endif
    float fade = exp(-reach / (14.0 * cell + 2.0)) * grid;
    below += line_light * fade * (0.45 * lines(at / cell, 0.6) + 0.55 * lines(at / (5.0 * cell), 0.8));
    float seen_floor = smoothstep(0.0, 0.004, down) * (eye.y >= 0.0 ? 1.0 : 0.5) * floor_there;
    pixel = vec4(mix(sky, below, seen_floor), 1.0);
    gl_FragDepth = 1.0;
    if (solid > 0.5 && down > 1e-4 && eye.y > 0.0) {
        float distance = reach * dot(ray, ahead);
        gl_FragDepth = clamp((depths.y / max(distance, 1e-4) - depths.x) * 0.5 + 0.5, 0.0, 1.0);
    }
}
