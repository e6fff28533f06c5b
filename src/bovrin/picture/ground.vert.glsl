#version 330
uniform mat4 to_clip;
uniform float height;
in vec2 place;
in vec2 uv;
out vec2 where;
out vec2 at;
void main() {
    where = uv;
    at = place;
    gl_Position = to_clip * vec4(place.x, height, place.y, 1.0);
}
