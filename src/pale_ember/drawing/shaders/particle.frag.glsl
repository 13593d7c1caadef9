#version 330 core
// A soft dot, in premultiplied light: what adds has no cover. ``spot`` goes from -1 to 1 over the dot.
uniform float cover;
out vec4 pixel;
void fill_dot(vec2 spot, vec4 light) {
    float far = dot(spot, spot);
    if (far >= 1.0) discard;
    float soft = (1.0 - far) * (1.0 - far);
    float a = light.a * soft;
    pixel = vec4(light.rgb * a, a * cover);
}
