#version 330
uniform mat4 to_clip;
in vec2 place;
in vec2 uv;
out vec2 where;
out vec2 at;
void main() {
    where = uv;
    at = place;
    gl_Position = to_clip * vec4(place.x, 0.0, place.y, 1.0);
}
