#!/usr/bin/env python3
"""Every kind of actor from another language, through jugend.h and ctypes: made, tuned, driven, heard, saved, refused.

  c_api_test.py LIBRARY"""
import ctypes
import random
import sys
import unittest

Three, Seven = ctypes.c_double * 3, ctypes.c_double * 7


class Id(ctypes.Structure):
    _fields_ = [("index", ctypes.c_uint32), ("generation", ctypes.c_uint32)]


class Facts(ctypes.Structure):
    _fields_ = [("position", Three), ("velocity", Three), ("facing", Three), ("up", Three), ("mode", ctypes.c_char_p),
                ("on_ground", ctypes.c_int)]


class Event(ctypes.Structure):
    _fields_ = [("kind", ctypes.c_char_p), ("time", ctypes.c_double), ("position", Three), ("value", ctypes.c_double)]


LIBRARY = ctypes.CDLL(sys.argv.pop(1))
LIBRARY.jugend_error.restype = ctypes.c_char_p
LIBRARY.jugend_stage_new.restype = ctypes.c_void_p
LIBRARY.jugend_save.restype = ctypes.c_size_t
LIBRARY.jugend_hash.restype = ctypes.c_uint64

# kind: half extents or radius of its body, kg, height of its middle, what drives it, and a field of its state
KINDS = {
    "walker": (None, 0, 0, {"intent.move": (1, 0, 0)}, "state.velocity"),
    "forced": (None, 0, 0, {"intent.move": (1, 0, 0)}, "state.velocity"),
    "roller": (0.5, 20, 0.5, {"intent.move": (1, 0, 0)}, "state.on_ground"),
    "led_body": ((0.4, 0.3, 0.3), 40, 0.3, {"intent.heading": (1, 0, 0), "intent.speed": (2,)}, None),
    "vehicle": ((1.1, 0.2, 0.5), 240, 0.7, {"drive.throttle": (1,)}, "state.wheels.0.load"),
    "tracked_vehicle": ((1.4, 0.2, 0.7), 2000, 0.5, {"drive.throttle": (1,)}, "state.speed"),
    "multirotor": ((0.2, 0.05, 0.2), 2, 3, {"fly.ahead": (0.5,)}, "state.speed.0"),
    "boat": ((2.5, 0.45, 1), 3500, -0.1, {"helm.throttle": (1,)}, None),
}
TUNED = {"walker": ("jump.height", "1.6"), "forced": ("legs.frequency", "6"), "vehicle": ("drive.top_speed", "9"),
         "roller": ("jump.height", "0.7")}


class Stage:
    def __init__(self):
        self.it = ctypes.c_void_p(LIBRARY.jugend_stage_new())
        self.box((200, 1, 200), (0, -1, 0))
        self.call("add_pool", Three(200, 10, 200), Seven(0, -10, 600, 1, 0, 0, 0))

    def __del__(self):
        LIBRARY.jugend_stage_free(self.it)

    def call(self, name, *arguments):
        answer = getattr(LIBRARY, "jugend_" + name)(self.it, *arguments)
        if answer < 0:
            raise ValueError(LIBRARY.jugend_error().decode())
        return answer

    def box(self, half, at, mass=0.0):
        made = Id()
        self.call("add_box", Three(*half), Seven(*at, 1, 0, 0, 0), ctypes.c_double(mass), ctypes.byref(made))
        return made

    def actor(self, kind, name, x=0.0):
        size, mass, height, _, _ = KINDS[kind]
        z = 600 if kind == "boat" else 0
        made = Id()
        if size is None:
            self.call("add_actor", kind.encode(), name.encode(), None, Three(x, 0, 0), ctypes.byref(made))
            return made
        if isinstance(size, tuple):
            body = self.box(size, (x, height, z), float(mass))
        else:
            body = Id()
            self.call("add_ball", ctypes.c_double(size), Seven(x, height, z, 1, 0, 0, 0), ctypes.c_double(mass),
                      ctypes.byref(body))
        self.call("add_actor", kind.encode(), name.encode(), ctypes.byref(body), None, ctypes.byref(made))
        return made

    def set(self, actor, field, *values):
        self.call("set", actor, field.encode(), (ctypes.c_double * len(values))(*values), ctypes.c_size_t(len(values)))

    def get(self, actor, field, count=1):
        values = (ctypes.c_double * count)()
        self.call("get", actor, field.encode(), values, ctypes.c_size_t(count))
        return list(values)

    def facts(self, actor):
        facts = Facts()
        self.call("get_facts", actor, ctypes.byref(facts))
        return facts

    def tick(self, count=1):
        for _ in range(count):
            self.call("tick", ctypes.c_double(1 / 60))

    def heard(self, actor):
        events = (Event * 16)()
        return [(e.kind.decode(), e.value) for e in events[: self.call("events", actor, events, ctypes.c_size_t(16))]]

    def save(self):
        size = LIBRARY.jugend_save(self.it, None, ctypes.c_size_t(0))
        bytes_ = ctypes.create_string_buffer(size)
        assert LIBRARY.jugend_save(self.it, bytes_, ctypes.c_size_t(size)) == size
        return bytes_.raw

    def restore(self, bytes_):
        self.call("restore", bytes_, ctypes.c_size_t(len(bytes_)))

    def hash(self):
        return LIBRARY.jugend_hash(self.it)


class FromAnotherLanguage(unittest.TestCase):
    def test_every_kind_is_driven_tuned_and_saved(self):
        for kind, (_, _, _, controls, state) in KINDS.items():
            with self.subTest(kind):
                stage = Stage()
                actor = stage.actor(kind, "one")
                if kind in TUNED:
                    key, value = TUNED[kind]
                    stage.call("tune", actor, key.encode(), value.encode())
                stage.tick(30)
                for field, values in controls.items():
                    stage.set(actor, field, *values)
                    self.assertEqual(stage.get(actor, field, len(values)), list(values))
                before = stage.facts(actor).position[0]
                stage.tick(90)
                self.assertGreater(stage.facts(actor).position[0], before + 0.5)
                if state:
                    stage.get(actor, state, 3 if state.endswith("velocity") else 1)
                saved, then = stage.save(), stage.hash()
                stage.tick(60)
                later = stage.hash()
                self.assertNotEqual(then, later)
                stage.restore(saved)
                self.assertEqual(stage.hash(), then)
                stage.tick(60)
                self.assertEqual(stage.hash(), later)

    def test_a_jump_has_the_height_that_was_asked_for(self):
        draws = random.Random(5)
        for kind in ("walker", "forced"):
            for _ in range(6):
                height = round(draws.uniform(0.5, 2.5), 3)
                stage = Stage()
                actor = stage.actor(kind, "one")
                stage.call("tune", actor, b"jump.height", str(height).encode())
                stage.tick(30)
                stage.set(actor, "jump", 1)
                apexes = []
                for _ in range(120):
                    stage.tick()
                    apexes += [value for name, value in stage.heard(actor) if name == "apex"]
                self.assertEqual(len(apexes), 1)
                self.assertAlmostEqual(apexes[0], height, delta=0.02 * height)

    def test_what_is_wrong_is_said_and_changes_nothing(self):
        stage = Stage()
        courier, cart = stage.actor("walker", "courier"), stage.actor("vehicle", "cart", 10.0)
        saved = stage.save()
        wrong = [
            (lambda: stage.actor("walker", "courier"), "'courier' a second time"),
            (lambda: stage.call("add_actor", b"walkre", b"x", None, Three(0, 0, 0), None), "nearest: walker"),
            (lambda: stage.call("add_actor", b"boat", b"x", None, None, None), "body"),
            (lambda: stage.call("tune", courier, b"jump.heigth", b"1"), "nearest: jump.height"),
            (lambda: stage.call("tune", courier, b"jump.height", b"high"), "a number"),
            (lambda: stage.call("tune", courier, b"jump.height", b"-1"), "jump.height"),
            (lambda: stage.set(courier, "intent.mvoe", 1, 0, 0), "no such field"),
            (lambda: stage.set(courier, "intent.move", 1, 0), "2 numbers"),
            (lambda: stage.set(courier, "state.velocity", 1, 0, 0), "no such field"),
            (lambda: stage.set(cart, "intent.move", 1, 0, 0), "no such field"),
            (lambda: stage.get(cart, "state.wheels.99.load"), "no such field"),
            (lambda: stage.get(Id(7, 7), "state.speed"), "actor"),
            (lambda: stage.call("tick", ctypes.c_double(-1)), "dt"),
            (lambda: stage.restore(saved[:-1]), "stage"),
            (lambda: stage.call("remove_actor", Id(7, 7)), "gone"),
            (lambda: stage.box((-1, 1, 1), (0, 0, 0)), "half_extents"),
        ]
        before = stage.hash()
        for act, says in wrong:
            with self.assertRaisesRegex(ValueError, says):
                act()
            self.assertEqual(stage.hash(), before, says)
        stage.set(courier, "intent.move", float("nan"), 0, 1)
        stage.tick(30)
        self.assertGreater(stage.facts(courier).position[2], 0.5)

    def test_actors_and_bodies_go(self):
        stage = Stage()
        courier, ball = stage.actor("walker", "courier"), stage.box((0.3, 0.3, 0.3), (5, 0.3, 0), 10.0)
        stage.call("push", ball, Three(20, 0, 0), Three(5, 0.3, 0))
        stage.tick(30)
        pose = Seven()
        stage.call("body_pose", ball, pose)
        self.assertGreater(pose[0], 5.05)
        self.assertEqual(stage.call("hit", courier, Three(-1, 0, 0), ctypes.c_double(2.0)), 0)
        stage.tick(2)
        self.assertEqual(stage.facts(courier).mode.decode(), "thrown")
        stage.call("remove_body", ball)
        stage.call("remove_actor", courier)
        with self.assertRaises(ValueError):
            stage.facts(courier)
        with self.assertRaises(ValueError):
            stage.call("remove_body", ball)


if __name__ == "__main__":
    unittest.main()
