#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/roots.hpp>
#include <jugend/motion/bodies/roller.hpp>

namespace jugend {

const Tunables& roller_tunables() {
  using R = RollerTuning;
  static const Tunables list{
      number<R>(
          "radius", "m", 0.01, 1000, "of the ball", [](auto& t) -> auto& { return t.radius; }),
      number<R>(
          "ground.torque", "Nm", 0, 1e9, "with full input on ground: rolls it",
          [](auto& t) -> auto& { return t.ground_torque; }),
      number<R>(
          "ground.force", "N", 0, 1e9, "with full input on ground: pushes it",
          [](auto& t) -> auto& { return t.ground_force; }),
      number<R>(
          "air.torque", "Nm", 0, 1e9, "with full input in the air: spins it",
          [](auto& t) -> auto& { return t.air_torque; }),
      number<R>(
          "air.force", "N", 0, 1e9, "with full input in the air: pushes it",
          [](auto& t) -> auto& { return t.air_force; }),
      number<R>(
          "top_speed", "m/s", 0.01, 1000, "beyond it forces push no more",
          [](auto& t) -> auto& { return t.top_speed; }),
      number<R>(
          "top_spin", "rad/s", 0.01, 10000, "beyond it torques turn no more",
          [](auto& t) -> auto& { return t.top_spin; }),
      number<R>(
          "ground.drag", "1/s", 0, 1000, "on ground speed and spin fall as exp(-k t)",
          [](auto& t) -> auto& { return t.rolling_drag; }),
      number<R>(
          "air.drag", "1/s", 0, 1000, "in the air level speed falls as exp(-k t)",
          [](auto& t) -> auto& { return t.air_drag; }),
      number<R>(
          "kick.speed_cap", "m/s", 0, 10000, "the most that a jump kicks what it leaves",
          [](auto& t) -> auto& { return t.kick_cap; }),
      number<R>(
          "jump.height", "m", 0, 1000, "from take-off to apex; 0: no jump",
          [](auto& t) -> auto& { return t.jump_height; }),
      number<R>(
          "jump.reach", "m", 0.0001, 10, "ground this near below may be jumped from",
          [](auto& t) -> auto& { return t.jump_reach; }),
      number<R>(
          "jump.slope_limit_deg", "deg", 0, 89, "steeper ground is none to jump from",
          [](auto& t) -> auto& { return t.slope_limit; }),
      number<R>(
          "jump.buffer", "s", 0, 10, "a press this long before landing is remembered",
          [](auto& t) -> auto& { return t.buffer; }),
      number<R>(
          "jump.coyote_time", "s", 0, 10, "a press this long after leaving ground counts",
          [](auto& t) -> auto& { return t.coyote_time; }),
      number<R>(
          "jump.lockout", "s", 0, 10, "after a jump, until the next", [](auto& t) -> auto& { return t.lockout; }),
      length_scale_of<R>(),
  };
  return list;
}

void check(const RollerTuning& tuning) { check_ranges(roller_tunables(), &tuning); }

Roller::Roller(const RollerTuning& tuning, BodyId body) : tuning_(tuning), body_(body) { check(tuning); }

void Roller::set_tuning(const RollerTuning& tuning, const Surroundings&) {
  RollerTuning fitted = tuning;
  fitted.radius = tuning_.radius;
  check(fitted);
  tuning_ = fitted;
}

JumpTuning Roller::jump_tuning() const {
  JumpTuning jump;
  jump.buffer = tuning_.buffer, jump.coyote_time = tuning_.coyote_time, jump.lockout = tuning_.lockout;
  return jump;
}

JumpAnswer Roller::can_jump() const {
  RollerState copy = state_;
  const JumpTuning tuning = jump_tuning();
  return Jump{tuning, copy.jump}.ask(state_.on_ground ? JumpFrom::ground : JumpFrom::nowhere);
}

/// What lies under the ball, and whether it rests there.
struct Roller::Below {
  Vec3 up;
  double strength = 0;  // m/s² of gravity
  bool near = false, grounded = false;
  Hit hit;
  BodyFacts ground;
  Vec3 ground_velocity;
  double leaving = 0;  // m/s off it
};

/// Ground is what a slightly smaller ball meets right below.
Roller::Below Roller::look_below(const Surroundings& surroundings, const BodyFacts& ball) const {
  Below below;
  const Vec3 g = surroundings.gravity(ball.pose.position);
  below.strength = norm(g);
  below.up = below.strength > 0 ? g / -below.strength : Vec3{0, 1, 0};
  Filter others = filter;
  others.ignored = body_;
  const double inset = 0.02 * tuning_.radius;
  const std::array<Vec3, 1> centre{ball.pose.position};
  const auto hit = surroundings.sweep({centre, tuning_.radius - inset, Core::point},
                                      below.up * -(inset + tuning_.jump_reach), others);
  below.near = hit && dot(hit->normal, below.up) >= same_bits::cos(tuning_.slope_limit);
  below.ground_velocity = state_.ground;
  if (state_.placed && !below.near && below.strength > 0) {  // where it starts, what is below counts as its ground
    constexpr double far = 1000;                             // m
    if (const auto ground = surroundings.cast({ball.centre, -below.up, far}, others))
      below.ground_velocity = in_plane(surroundings.facts(ground->body).surface_velocity_at(ground->point), below.up);
  }
  if (!below.near) return below;
  below.hit = *hit;
  below.ground = surroundings.facts(hit->body);
  below.ground_velocity = below.ground.surface_velocity_at(hit->point);
  below.leaving = dot(ball.velocity - below.ground_velocity, hit->normal);
  const double quiet = 0.3 * std::sqrt(below.strength * tuning_.radius);  // m/s: slower is rolling, not flying off
  below.grounded = state_.on_ground ? below.leaving < quiet : below.leaving <= quiet * 0.1;
  return below;
}

void Roller::land(double time, double impact) {
  const JumpTuning numbers = jump_tuning();
  Jump{numbers, state_.jump}.land(0);
  if (!state_.placed) events_.push_back({RollerEventKind::landed, time, impact});
  state_.on_ground = true;
}

void Roller::settle(const Surroundings& surroundings, double dt) {
  const BodyFacts ball = surroundings.facts(body_);
  if (ball.mass <= 0 || state_.on_ground || state_.placed || state_.jump.since_jump <= dt) return;
  const Below below = look_below(surroundings, ball);
  if (!below.grounded) return;
  // From where the tick began it fell as bodies fall: gap = v t + g t²/2.
  const double gap = std::max(0.0, dot(state_.from - ball.pose.position, below.up));
  const double time = first_root_within(0.5 * below.strength, state_.falling, -gap, dt);
  const double when = time >= 0 ? time : dt;
  land(when, std::max(state_.falling + below.strength * when, -below.leaving));
}

/// Torque turns about the axis that rolls it along the input, force pushes along it; each up to its limit.
void Roller::drive(const Vec3& move, const BodyFacts& ball, const Below& below, Surroundings& surroundings,
                   double dt) const {
  Vec3 direction = in_plane(move, below.up);
  if (norm(direction) > 1) direction = normalised(direction);
  const Vec3 axis = cross(below.up, direction);
  const double torque = below.grounded ? tuning_.ground_torque : tuning_.air_torque;
  const double force = below.grounded ? tuning_.ground_force : tuning_.air_force;
  const auto limited = [&](double full, double now, double top, double inverse) {
    return inverse > 0 ? std::clamp((top - now) / (inverse * dt), 0.0, full)
                       : 0.0;  // no further than the top in a tick
  };
  if (const double share = norm(direction); share > 0) {
    const Vec3 about = axis / share, along = direction / share;
    const double turn =
        limited(torque * share, dot(ball.spin, about), tuning_.top_spin, dot(about, ball.inverse_inertia * about));
    const double push =
        limited(force * share, dot(ball.velocity - below.ground_velocity, along), tuning_.top_speed, 1 / ball.mass);
    if (turn > 0) surroundings.torque(body_, about * turn);
    if (push > 0) surroundings.force(body_, along * push, ball.centre);
  }
}

void Roller::slow_down(const BodyFacts& ball, const Below& below, Surroundings& surroundings, double dt) const {
  const double drag = below.grounded ? tuning_.rolling_drag : tuning_.air_drag;
  if (drag <= 0) return;
  const double lost = -same_bits::expm1(-drag * dt);
  const Vec3 relative = ball.velocity - below.ground_velocity;
  const Vec3 slows = below.grounded ? relative : in_plane(relative, below.up);
  surroundings.push(body_, slows * (-lost * ball.mass), ball.centre);
  if (!below.grounded) return;
  const Vec3 about = normalised(ball.spin, below.up);
  const double inertia = 1 / std::max(1e-12, dot(about, ball.inverse_inertia * about));
  surroundings.twist(body_, ball.spin * (-lost * inertia));
}

void Roller::try_jump(const Button& button, Jump& jump, const BodyFacts& ball, const Below& below,
                      Surroundings& surroundings) {
  jump.hear(button);
  if (!jump.wanted() || tuning_.jump_height <= 0) return;
  const JumpAnswer answer = jump.ask(below.grounded ? JumpFrom::ground : JumpFrom::nowhere);
  if (!answer) return;
  const Vec3& up = below.up;
  const double speed = std::sqrt(2 * below.strength * tuning_.jump_height);
  const double rising = dot(ball.velocity, up), from = dot(below.ground_velocity, up);
  surroundings.push(body_, up * ((std::max(0.0, from) + speed - rising) * ball.mass), ball.centre);
  if (below.grounded && below.ground.mass > 0) {
    const Vec3& at = below.hit.point;
    surroundings.push(below.hit.body, kick_impulse(below.ground, up * (-speed * ball.mass), at, up, tuning_.kick_cap),
                      at);
  }
  jump.take_off(answer.from, 0, button.held);
  events_.push_back({RollerEventKind::jumped, 0, speed, answer.from});
  if (state_.on_ground) events_.push_back({RollerEventKind::left_ground});
  state_.on_ground = false;
}

void Roller::step(const RollerIntent& told, Surroundings& surroundings, double dt) {
  if (!(dt > 0)) return;
  const RollerIntent intent = made_finite(told);
  events_.clear();
  const BodyFacts ball = surroundings.facts(body_);
  if (ball.mass <= 0) return;
  const JumpTuning jump_numbers = jump_tuning();
  Jump jump{jump_numbers, state_.jump};
  const Below below = look_below(surroundings, ball);
  const bool grounded = below.grounded;
  if (grounded && !state_.on_ground && state_.jump.since_jump > 0) land(0, std::max(state_.falling, -below.leaving));
  if (!grounded && state_.on_ground) {
    jump.leave_ground(0, state_.jump.since_jump > 0.05);
    events_.push_back({RollerEventKind::left_ground});
  }
  state_.on_ground = grounded;
  if (grounded || state_.placed) state_.ground = in_plane(below.ground_velocity, below.up);
  state_.placed = false;
  state_.falling = std::max(0.0, -dot(ball.velocity, below.up));
  state_.from = ball.pose.position;
  state_.air_time = grounded ? 0 : state_.air_time + dt;

  drive(intent.move, ball, below, surroundings, dt);
  slow_down(ball, below, surroundings, dt);
  try_jump(intent.jump, jump, ball, below, surroundings);
  jump.pass(dt);
}

const char* name_of(RollerEventKind kind) {
  static constexpr const char* names[] = {"jumped", "left_ground", "landed"};
  return names[static_cast<int>(kind)];
}

}  // namespace jugend
