#version 330 core
// Half the size, each pixel from four soft reads.
uniform sampler2D source;
uniform vec2 texel;
in vec2 uv;
out vec4 pixel;
void main() {
    vec3 sum = texture(source, uv + texel * vec2(-1.0, -1.0)).rgb + texture(source, uv + texel * vec2(1.0, -1.0)).rgb
             + texture(source, uv + texel * vec2(-1.0, 1.0)).rgb + texture(source, uv + texel * vec2(1.0, 1.0)).rgb;
    pixel = vec4(min(sum * 0.25, vec3(60.0)), 1.0);
}
