#version 330 core
// Twice the size, softened, to be added to the next finer glow.
uniform sampler2D source;
uniform vec2 texel;
uniform float share;
in vec2 uv;
out vec4 pixel;
void main() {
    vec3 sum = texture(source, uv).rgb * 4.0;
    sum += (texture(source, uv + texel * vec2(1.0, 0.0)).rgb + texture(source, uv - texel * vec2(1.0, 0.0)).rgb
          + texture(source, uv + texel * vec2(0.0, 1.0)).rgb + texture(source, uv - texel * vec2(0.0, 1.0)).rgb) * 2.0;
    sum += texture(source, uv + texel).rgb + texture(source, uv - texel).rgb
         + texture(source, uv + texel * vec2(1.0, -1.0)).rgb + texture(source, uv + texel * vec2(-1.0, 1.0)).rgb;
    pixel = vec4(sum / 16.0 * share, 1.0);
}
