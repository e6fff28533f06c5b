#version 330
// A flat part where its joints have it; with `aside` above zero all of it is moved by that many pixels.
uniform mat4 to_clip;
uniform vec2 half_size;
uniform vec2 aside;
in vec4 place;
in vec2 uv;
in uint bone;
out vec2 spot;
flat out uint strongest;

void main() {
    spot = uv;
    strongest = bone;
    gl_Position = to_clip * place;
    gl_Position.xy += aside / half_size * gl_Position.w;
}
