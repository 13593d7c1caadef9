#version 330 core
// A picture, to be added to another of its size.
uniform sampler2D more;
out vec4 pixel;
void main() {
    pixel = texelFetch(more, ivec2(gl_FragCoord.xy), 0);
}
