#version 330 core
// A soft dot, in premultiplied light: what adds has no cover.
uniform float cover;
out vec4 pixel;
#ifdef POINTS
flat in vec4 turn;
flat in vec4 light;
#else
in vec2 spot;
in vec4 light;
#endif

void main() {
#ifdef POINTS
    vec2 at = vec2(gl_PointCoord.x * 2.0 - 1.0, 1.0 - gl_PointCoord.y * 2.0);
    vec2 spot = vec2(turn.x * at.x + turn.y * at.y, turn.x * at.y - turn.y * at.x) * turn.zw;
#endif
    float far = dot(spot, spot);
    if (far >= 1.0) discard;
    float soft = (1.0 - far) * (1.0 - far);
    float a = light.a * soft;
    pixel = vec4(light.rgb * a, a * cover);
}
