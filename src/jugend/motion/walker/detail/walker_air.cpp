// A walker through the air: flights, dashes, touches, landings and walls beside it.
#include <jugend/base/roots.hpp>
#include <jugend/motion/walker/detail/walker_tick.hpp>

namespace jugend {

/// What pulls it down: its jump's own gravity, as the moves change it.
FallLaw Walker::Tick::fall_law() const {
  FallLaw law = jump.law(gravity_ratio);
  if (state.wall.sliding) law.speed_limit = std::min(law.speed_limit, tuning.wall.slide_speed);
  if (dashing()) law.rising *= tuning.dash.gravity, law.falling *= tuning.dash.gravity;
  if (launched()) law.rising = 0;
  return law;
}

double Walker::Tick::air_stretch(double time, bool steered) {
  const Vec3 velocity = contacts.clip(state.velocity);
  if (thrown()) contacts.leave(velocity);  // what it is thrown off does not hold its slowing down
  const double rising = dot(velocity, state.up);
  if (rising > 1e-6) state.apex_due = true;
  const FallLaw law = fall_law();
  const Ramp fall = law.rising > 0 ? next_fall_ramp(rising, law, time) : Ramp{time, 0, rising};
  const Vec3 level = velocity - state.up * rising - state.carried;
  const Vec3 target = in_plane(contacts.clip(wish()), state.up);
  const RunRamp drift =
      steered ? next_ramp(level, target, rates_of(tuning.air, stagger.control(now)), time) : RunRamp{time, {}, level};
  const double duration = std::min(fall.duration, drift.duration);
  if (duration < instant) {  // a goal reached at once
    const Vec3 drifting = drift.duration < instant ? drift.end_velocity : level;
    const bool at_apex = fall.duration < instant;
    state.velocity = contacts.clip(state.carried + drifting + state.up * (at_apex ? fall.end_speed : rising));
    if (at_apex && rising > 0 && fall.end_speed <= 0) note_apex();
    return duration;
  }
  const Vec3 acceleration = contacts.clip(drift.acceleration + state.up * fall.acceleration);
  const bool free = contacts.size() == 0;
  const Vec3 way = velocity * duration + acceleration * (0.5 * duration * duration);
  const auto hit = surroundings.sweep(trunk(state.position, 0).view(), way, solids());
  if (!hit) {
    state.position += way;
    state.velocity = velocity + acceleration * duration;
    if (free) {  // land on the goals themselves, not a rounding beside them
      if (drift.duration == duration)
        state.velocity += drift.end_velocity - in_plane(state.velocity - state.carried, state.up);
      if (fall.duration == duration) state.velocity += state.up * (fall.end_speed - dot(state.velocity, state.up));
    }
    if (rising > 0 && dot(state.velocity, state.up) <= 0) {
      now += duration;
      note_apex();
      now -= duration;
      jump.fall();
    }
    return duration;
  }
  return touch(*hit, velocity, acceleration, way, duration);
}

/// The end of a flight, or of a part of it: time and place of the touch, and what becomes of the speed.
double Walker::Tick::touch(const Hit& hit, const Vec3& velocity, const Vec3& acceleration, const Vec3& way,
                           double duration) {
  const double share = backed_off(hit, way);
  // The sweep goes straight, the flight is a parabola: of the same height above the plane touched, so
  // n·(v t + a t²/2) = n·way × share gives the time, and the parabola the place.
  const Vec3& n = hit.normal;
  double spent = first_root_within(0.5 * dot(n, acceleration), dot(n, velocity), -dot(n, way) * share, duration);
  if (!(spent >= 0)) spent = share * duration;
  const Vec3 on_chord = way * share;
  const Vec3 aside = velocity * spent + acceleration * (0.5 * spent * spent) - on_chord;
  state.position += on_chord;
  const auto blocked = surroundings.sweep(trunk(state.position, 0).view(), aside, solids());
  if (!blocked) state.position += aside;

  const Vec3 arriving = velocity + acceleration * spent;
  const BodyFacts facts = surroundings.facts(hit.body);
  const Vec3 relative = arriving - facts.velocity_at(hit.point);
  now += spent;
  state.velocity = arriving;
  const auto done = [&] {
    now -= spent;
    return spent;
  };
  if (stomp(facts, hit, relative)) return done();
  if (dot(relative, state.up) <= 1e-9 && dot(n, state.up) > 0) {
    const Ground g = sense(state.position, 4 * skin, 4 * skin);
    if (g.walkable) {
      land(g, arriving);
      return done();
    }
  }
  const double into = -dot(relative, n);
  if (into > 0) {
    const double own = 1 / tuning.body.mass, others = facts.inverse_mass_at(hit.point, n);
    const double impulse = into / (own + others);
    state.velocity += n * (impulse * own);
    if (facts.mass > 0) surroundings.push(hit.body, n * -impulse, hit.point);
    const double on_with = -dot(state.velocity, n);  // it follows a body that gives way, once that has moved
    if (on_with > 0) kept += n * -on_with, state.velocity += n * on_with;
  }
  if (dot(n, state.up) < -0.1 && dot(arriving, state.up) > 0) {
    emit(WalkerEventKind::bumped_head, std::max(0.0, into));
    state.launch.left = 0;
  }
  if (dot(arriving, state.up) > 0 && dot(state.velocity, state.up) <= 1e-12) {
    note_apex();
    jump.fall();
  }
  if (norm(on_chord) > 0.1 * skin) contacts = {};  // it has left those that it touched before
  contacts.add(n);
  const double lean = dot(n, state.up);
  if (lean > 0.02) slid = true;
  // Slopes that are each too steep can hold together; then there is no way down.
  state.wedged = slid && contacts.size() > 1 && dot(contacts.clip(-state.up), state.up) > -1e-6;
  if (state.wedged) state.velocity = in_plane(state.velocity, state.up);
  return done();
}

/// On to the ground, which takes the momentum of the fall; and off again where a press has waited for it.
void Walker::Tick::land(const Ground& g, const Vec3& arriving) {
  const Vec3 relative = arriving - g.velocity;
  const double impact = std::max(0.0, -dot(relative, state.up));
  const bool anew = g.body != state.footing.body;
  settle_on(g);
  if (anew) state.footing.momentum = {};
  state.wedged = false;
  contacts = {};
  kept = {};
  state.launch.left = 0;
  emit(WalkerEventKind::landed, impact, g.body);
  if (g.mass > 0 && impact > 0) {
    const BodyFacts facts = surroundings.facts(g.body);
    const double impulse = impact / (1 / tuning.body.mass + facts.inverse_mass_at(g.point, state.up));
    surroundings.push(g.body, kick_impulse(facts, state.up * -impulse, g.point, state.up, tuning.kick.speed_cap),
                      g.point);
  }
  state.velocity = g.velocity + tilted(in_plane(relative, state.up), g.normal, state.up);
  jump.land(now);
  try_jump();
}

/// A wall that input pushes into, or that was touched just now.
void Walker::Tick::feel_walls() {
  state.wall.sliding = false;
  if (tuning.wall.on <= 0 || state.on_ground || swam) return;
  const bool pushes = touch_wall(state.wall, tuning.wall, trunk(state.position, 0).view(), tuning.wall.reach,
                                 intent.move, state.up, surroundings, solids());
  state.wall.sliding = pushes && dot(state.velocity, state.up) < 0 && !dashing() && !thrown();
}

}  // namespace jugend
