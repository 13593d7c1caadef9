#version 330 core
// A soft dot, as sprite.frag has it, in the square of a point.
uniform float cover;
flat in vec4 turn;
flat in vec4 light;
out vec4 pixel;
void main() {
    vec2 at = vec2(gl_PointCoord.x * 2.0 - 1.0, 1.0 - gl_PointCoord.y * 2.0);
    vec2 spot = vec2(turn.x * at.x + turn.y * at.y, turn.x * at.y - turn.y * at.x) * turn.zw;
    float far = dot(spot, spot);
    if (far >= 1.0) discard;
    float soft = (1.0 - far) * (1.0 - far);
    float a = light.a * soft;
    pixel = vec4(light.rgb * a, a * cover);
}
