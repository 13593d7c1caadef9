#version 330 core
// A soft dot, in premultiplied light: what adds has no cover.
uniform float cover;
in vec2 spot;
in vec4 light;
out vec4 pixel;
void main() {
    float far = dot(spot, spot);
    if (far >= 1.0) discard;
    float soft = (1.0 - far) * (1.0 - far);
    float a = light.a * soft;
    pixel = vec4(light.rgb * a, a * cover);
}
