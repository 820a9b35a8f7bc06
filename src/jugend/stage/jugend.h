/* A stage for hosts in other languages: actors of every kind of the library, in plain C.
 *
 *   jugend_stage *stage = jugend_stage_new();
 *   jugend_add_box(stage, half, pose, 0, NULL);
 *   jugend_id courier;
 *   jugend_add_actor(stage, "walker", "courier", NULL, feet, &courier);
 *   jugend_tune(stage, courier, "jump.height", "1.4");
 *   jugend_set(stage, courier, "intent.move", ahead, 3);
 *   jugend_tick(stage, 1.0 / 60);
 *
 * Metres, kilograms, seconds, radians; x forward, y up, z right. A pose is seven numbers: place x y z, then a unit
 * quaternion w x y z. Functions that return int give 0, or -1 where something is wrong: jugend_error() says what, and
 * nothing has changed. What an actor is told and what it knows are read and written by the names that the fields have
 * in C++: those of its controls ("intent.move", "jump", "drive.throttle", "fly.climb", "helm.rudder"), and those of its
 * state after "state." ("state.velocity", "state.wheels.0.load"). One stage is used by one thread at a time.
 */
#ifndef JUGEND_H
#define JUGEND_H

#include <stddef.h>
#include <stdint.h>

#if defined(__GNUC__)
#define JUGEND_API __attribute__((visibility("default")))
#else
#define JUGEND_API
#endif

#ifdef __cplusplus
extern "C" {
#endif

typedef struct jugend_stage jugend_stage;

/* Names a body or an actor. One that is gone is never named again. */
typedef struct jugend_id {
  uint32_t index, generation;
} jugend_id;

/* Where an actor is: feet, a ball's lowest point, else its body. */
typedef struct jugend_facts {
  double position[3], velocity[3], facing[3], up[3];
  const char *mode; /* "running", "falling" and the like; lasts as long as the program */
  int on_ground;
} jugend_facts;

typedef struct jugend_event {
  const char *kind; /* "jumped", "landed" and the like; lasts as long as the program */
  double time;      /* s into the last tick */
  double position[3];
  double value; /* of jumped and landed m/s, of apex m: see WalkerEvent */
} jugend_event;

/* What was wrong with the last call on this thread that returned -1 or NULL. */
JUGEND_API const char *jugend_error(void);

JUGEND_API jugend_stage *jugend_stage_new(void);
JUGEND_API void jugend_stage_free(jugend_stage *stage);
JUGEND_API int jugend_set_gravity(jugend_stage *stage, const double gravity[3]);

/* Bodies. `mass` in kg, 0: nothing moves it. `id` may be NULL. */
JUGEND_API int jugend_add_box(jugend_stage *stage, const double half_extents[3], const double pose[7], double mass,
                              jugend_id *id);
JUGEND_API int jugend_add_ball(jugend_stage *stage, double radius, const double pose[7], double mass, jugend_id *id);
/* Its axis is y; `half_length` from the middle to the middle of an end. */
JUGEND_API int jugend_add_capsule(jugend_stage *stage, double radius, double half_length, const double pose[7],
                                  double mass, jugend_id *id);
/* Water in a box whose upper face is its surface. */
JUGEND_API int jugend_add_pool(jugend_stage *stage, const double half_extents[3], const double pose[7]);
JUGEND_API int jugend_body_pose(const jugend_stage *stage, jugend_id body, double pose[7]);
JUGEND_API int jugend_push(jugend_stage *stage, jugend_id body, const double impulse[3], const double at[3]);
JUGEND_API int jugend_remove_body(jugend_stage *stage, jugend_id body);

/* Actors. `kind`: walker, forced (both at the place of their feet, `at`; body NULL), roller, led_body, vehicle,
 * tracked_vehicle, multirotor, boat (each drives the dynamic body named; at NULL). */
JUGEND_API int jugend_add_actor(jugend_stage *stage, const char *kind, const char *name, const jugend_id *body,
                                const double at[3], jugend_id *id);
JUGEND_API int jugend_remove_actor(jugend_stage *stage, jugend_id actor);
/* One tunable, as `jugend params` lists them: "jump.height", "1.4"; "dash.direction", "facing". */
JUGEND_API int jugend_tune(jugend_stage *stage, jugend_id actor, const char *key, const char *value);
/* `count` numbers for a field of its controls; a button takes 1, down, or 0. */
JUGEND_API int jugend_set(jugend_stage *stage, jugend_id actor, const char *field, const double *values, size_t count);
/* The numbers of a field of its controls, or of its state. */
JUGEND_API int jugend_get(const jugend_stage *stage, jugend_id actor, const char *field, double *values, size_t count);
JUGEND_API int jugend_get_facts(const jugend_stage *stage, jugend_id actor, jugend_facts *facts);
/* A throw of `distance` m, to be felt in the next tick. */
JUGEND_API int jugend_hit(jugend_stage *stage, jugend_id actor, const double away[3], double distance);

/* One tick of `dt` s. */
JUGEND_API int jugend_tick(jugend_stage *stage, double dt);
/* Those of the last tick; returns how many there were, and fills as many as there is room for. */
JUGEND_API int jugend_events(const jugend_stage *stage, jugend_id actor, jugend_event *events, size_t room);
/* An actor's place between the last two ticks, `fraction` of the way. */
JUGEND_API int jugend_drawn_position(const jugend_stage *stage, jugend_id actor, double fraction, double position[3]);

/* A snapshot as bytes: returns how many there are, and writes them where there is room for all. */
JUGEND_API size_t jugend_save(const jugend_stage *stage, void *bytes, size_t room);
JUGEND_API int jugend_restore(jugend_stage *stage, const void *bytes, size_t size);
/* Of all that ticks have changed: the same on every machine. */
JUGEND_API uint64_t jugend_hash(const jugend_stage *stage);

#ifdef __cplusplus
}
#endif

#endif
