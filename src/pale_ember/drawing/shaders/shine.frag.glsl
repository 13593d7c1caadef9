#version 330 core
// The light that layers throw on the floor, found again from its depth.
uniform mat4 unproject;
uniform sampler2D behind;
uniform vec2 size;
uniform vec3 eye;
out vec4 pixel;
//: shining
void main() {
    float depth = texelFetch(behind, ivec2(gl_FragCoord.xy), 0).r;
    if (depth >= 1.0) discard;
    vec4 far = unproject * vec4(gl_FragCoord.xy / size * 2.0 - 1.0, depth * 2.0 - 1.0, 1.0);
    vec3 at = far.xyz / far.w;
    // Props are lit where they are drawn.
    if (abs(at.y) > 0.002 + 0.002 * length(eye - at)) discard;
    pixel = vec4(shining(at, vec3(0.0, 1.0, 0.0)) * 0.3, 0.0);
}
