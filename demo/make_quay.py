#!/usr/bin/env python3
"""Writes quay.glb: the quay of Eelgrass Harbour, its slipway and the seabed beside it.

A profile in the xy plane (metres, y up), extruded along z into strips of triangles. Only Python's
standard library is needed:  python3 demo/make_quay.py
"""
import json
import pathlib
import struct

# (x, y, material of the stretch that starts here)
PROFILE = [
    (-8.0, 0.0, "cobbles"),   # the quay
    (14.0, 0.0, "planks"),    # the slipway, up to the upper quay
    (22.0, 1.8, "cobbles"),
    (28.0, 1.8, "wall"),      # the quay's edge, down into the water
    (28.0, -3.0, "mud"),
    (56.0, -3.4, None),
]
WIDTH, STRIPS, STEP = 8.0, 8, 1.0


def stations():
    """The profile's points with stretches divided into steps of at most STEP metres."""
    for (x0, y0, material), (x1, y1, _) in zip(PROFILE, PROFILE[1:]):
        length = ((x1 - x0) ** 2 + (y1 - y0) ** 2) ** 0.5
        n = max(1, round(length / STEP))
        for k in range(n):
            a, b = k / n, (k + 1) / n
            yield material, (x0 + (x1 - x0) * a, y0 + (y1 - y0) * a), (x0 + (x1 - x0) * b, y0 + (y1 - y0) * b)


def main():
    vertices, faces = [], {}
    for material, (xa, ya), (xb, yb) in stations():
        base = len(vertices)
        for s in range(STRIPS + 1):
            z = -WIDTH / 2 + WIDTH * s / STRIPS
            vertices += [(xa, ya, z), (xb, yb, z)]
        for s in range(STRIPS):
            a, b, c, d = base + 2 * s, base + 2 * s + 1, base + 2 * s + 2, base + 2 * s + 3
            faces.setdefault(material, []).extend([a, c, b, b, c, d])

    positions = b"".join(struct.pack("<3f", *v) for v in vertices)
    binary, views, accessors, primitives = positions, [], [], []
    views.append({"buffer": 0, "byteOffset": 0, "byteLength": len(positions), "target": 34962})
    accessors.append({"bufferView": 0, "componentType": 5126, "count": len(vertices), "type": "VEC3",
                      "min": [min(v[k] for v in vertices) for k in range(3)],
                      "max": [max(v[k] for v in vertices) for k in range(3)]})
    materials = sorted(faces)
    for material in materials:
        indices = b"".join(struct.pack("<I", i) for i in faces[material])
        views.append({"buffer": 0, "byteOffset": len(binary), "byteLength": len(indices), "target": 34963})
        accessors.append({"bufferView": len(views) - 1, "componentType": 5125, "count": len(faces[material]), "type": "SCALAR"})
        primitives.append({"attributes": {"POSITION": 0}, "indices": len(accessors) - 1, "material": materials.index(material)})
        binary += indices
    gltf = {"asset": {"version": "2.0", "generator": "make_quay.py"}, "scene": 0, "scenes": [{"nodes": [0]}],
            "nodes": [{"mesh": 0, "name": "quay"}], "meshes": [{"primitives": primitives}],
            "materials": [{"name": m} for m in materials], "bufferViews": views, "accessors": accessors,
            "buffers": [{"byteLength": len(binary)}]}
    text = json.dumps(gltf).encode()
    text += b" " * (-len(text) % 4)
    binary += b"\0" * (-len(binary) % 4)
    total = 12 + 8 + len(text) + 8 + len(binary)
    out = pathlib.Path(__file__).with_name("quay.glb")
    out.write_bytes(struct.pack("<4sII", b"glTF", 2, total) + struct.pack("<I4s", len(text), b"JSON") + text +
                    struct.pack("<I4s", len(binary), b"BIN\0") + binary)
    print(f"{out}: {sum(map(len, faces.values())) // 3} triangles")


if __name__ == "__main__":
    main()
