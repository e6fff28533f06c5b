#version 330
uniform sampler2D density;
uniform vec3 colour;
in vec2 where;
out vec4 result;
void main() { result = vec4(colour, texture(density, where).r); }
