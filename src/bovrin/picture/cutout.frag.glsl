#version 330
// A drawing as it is, colours multiplied by alpha; or flat ink where it is opaque; or its joint's number for picking.
uniform sampler2D skin;
uniform vec4 ink;
uniform vec3 light_colour;
uniform int mode;
uniform int figure_number;
in vec2 spot;
flat in uint strongest;
out vec4 result;

void main() {
    vec4 seen = texture(skin, spot);
    if (mode == 0) { result = vec4(seen.rgb * light_colour, seen.a); return; }
    if (seen.a < 0.5) discard;
    if (mode == 1) { result = ink; return; }
    result = vec4(float(strongest & 255u), float(strongest >> 8), float(figure_number), 255.0) / 255.0;
}
