#version 330
uniform vec3 colour;
uniform vec2 middle;
uniform float reach;
in vec2 at;
in vec2 where;
out vec4 result;
void main() {
    float fade = 1.0 - smoothstep(0.25, 1.0, length(at - middle) / reach);
    result = vec4(colour, fade * where.x);
}
