#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/inline_list.hpp>
#include <jugend/base/spatial.hpp>
#include <jugend/motion/boat/boat.hpp>
#include <jugend/motion/port/intent.hpp>

namespace jugend {
namespace {

constexpr double fresh_water = 1000;  // kg/m³, for which drag ahead is stated
constexpr int stations = 5;           // along the hull
// Four at each station and three against swings; then rudder and keel.
constexpr int most_drags = 4 * stations + 3, most_foils = 2;

}  // namespace

/// What the water does to it in one tick: sensed once, then solved with the body's motion as one stiff system.
struct Boat::Tick {
  /// Drags along a direction at a place: F = -(linear + square |s|) s, with s the speed there along it.
  struct Drag {
    SpatialVector along;
    double flow = 0;  // m/s of the water along it
    double linear = 0, square = 0;
  };
  /// A blade: F = -c |w| (w · n) n, with w its way through the water, which a race adds to.
  struct Foil {
    SpatialVector axes[3];  // the body's ahead, up and right
    Vec3 flow, normal;      // m/s of the water; unit; both along those axes
    double factor = 0, race = 0;
  };

  const BoatTuning& t;
  BoatState& state;
  Surroundings& around;
  const double dt;
  BodyFacts body;
  Vec3 upwards, ahead, up, right;  // against gravity; the body's own half-way through the tick
  InlineList<Drag, most_drags> drags;
  InlineList<Foil, most_foils> foils;
  SpatialVector pushes{};  // thrust

  Vec3 place(double x, double y, double z = 0) const { return ahead * x + up * y + right * z; }
  Medium water(const Vec3& lever) const { return around.medium(body.centre + lever, upwards); }
  SpatialVector row(const Vec3& along, const Vec3& lever) const { return {along, cross(lever, along)}; }
  void add(const Vec3& along, const Vec3& lever, const Vec3& flow, double linear, double square) {
    if (linear > 0 || square > 0) drags.push_back({row(along, lever), dot(along, flow), linear, square});
  }
  double under(const Medium& water, double span) const {
    return water.density > 0 ? std::clamp(0.5 + water.depth / span, 0.0, 1.0) : 0.0;
  }

  void feel_hull() {
    const double share = 1.0 / stations, fresh = fresh_water / (t.length_scale * t.length_scale * t.length_scale);
    double wet = 0;
    Vec3 flow;
    for (int i = 0; i < stations; ++i) {
      const double x = t.length * ((i + 0.5) * share - 0.5);
      const Medium there = water(place(x, -t.bottom));
      if (there.density <= 0) continue;
      const double deep = std::clamp(there.depth / t.draught, 0.0, 2.0), half = 0.5 * there.density;
      wet += deep * share, flow += there.flow * (deep * share);
      const Vec3 middle = place(x, -t.bottom + 0.5 * t.draught);
      add(ahead, middle, there.flow, 0, drag_ahead(t) * there.density / fresh * share * deep);
      add(right, middle, there.flow, 0, half * t.side_drag * t.length * t.draught * share * deep);
      for (const double side : {-0.25, 0.25})
        add(up, place(x, -t.bottom, side * t.beam), there.flow, 0,
            half * t.rise_drag * t.length * t.beam * 0.5 * share * std::min(deep, 1.0));
    }
    state.afloat = wet;
    const Vec3 through = body.velocity_at(body.centre) - (wet > 0 ? flow / wet : Vec3{});
    state.speed = dot(through, ahead), state.drift = dot(through, right);
    if (wet == 0 || t.swing_half_life <= 0) return;
    // A swing's speed falls by the damping over twice the mass.
    const double damps = 2 * same_bits::log(2.0) / t.swing_half_life * std::min(wet, 1.0);
    const Sym3 inertia = body.inertia();
    add(up, {}, flow / wet, damps * body.mass, 0);
    for (const Vec3& axis : {ahead, right}) drags.push_back({{{}, axis}, 0, damps * dot(axis, inertia * axis), 0});
  }

  /// `angle` rad, hind edge to the left positive; `race` (m/s)² more that meets it from ahead.
  void feel_foil(const FoilTuning& foil, double angle, double race) {
    if (foil.area <= 0) return;
    const Vec3 lever = place(foil.ahead, foil.height);
    const Medium there = water(lever);
    const double wet = under(there, std::sqrt(foil.aspect * foil.area));
    if (wet == 0) return;
    const double slope = 6.13 * foil.aspect / (foil.aspect + 2.25);
    Foil f;
    const Vec3 axes[] = {ahead, up, right};
    for (int i = 0; i < 3; ++i) f.axes[i] = row(axes[i], lever), f.flow[i] = dot(there.flow, axes[i]);
    f.normal = {-same_bits::sin(angle), 0, same_bits::cos(angle)};
    f.factor = 0.5 * there.density * foil.area * slope * wet, f.race = race;
    foils.push_back(f);
  }

  void drive(double throttle, double steer) {
    // The mean of what the engine gives over the tick, as it comes nearer to what is asked.
    const double asked = throttle * t.thrust * (throttle < 0 ? t.astern : 1.0), before = state.thrust;
    const double left = t.throttle_lag > 0 ? same_bits::exp(-dt / t.throttle_lag) : 0.0;
    const double mean = asked + (before - asked) * (t.throttle_lag > 0 ? t.throttle_lag / dt * (1 - left) : 0.0);
    state.thrust = asked + (before - asked) * left;
    const double turned = std::clamp(-steer * t.rudder_angle - state.rudder, -t.rudder_rate * dt, t.rudder_rate * dt);
    const double angle = state.rudder + 0.5 * turned;
    state.rudder += turned;

    const Vec3 lever = place(t.propeller_ahead, t.propeller_height);
    const Medium there = water(lever);
    state.screw = under(there, 2 * t.propeller_radius);
    const double thrust = mean * state.screw, disc = pi * t.propeller_radius * t.propeller_radius;
    const bool turns = t.steering == BoatSteering::outboard;
    const Vec3 along = turns ? ahead * same_bits::cos(angle) + right * same_bits::sin(angle) : ahead;
    pushes = row(along, lever) * thrust;
    const double race = thrust > 0 && !turns ? 2 * thrust / (there.density * disc) : 0.0;
    feel_foil(t.rudder, angle, race);
    feel_foil(t.keel, 0, 0);
  }

  /// Its forces as those of dampers, each with a coefficient that is held: so nothing gains energy, however stiff it
  /// is.
  struct Dampers {
    InlineList<Drag, most_drags + most_foils> each;
    SpatialVector force(const SpatialVector& pushes, const SpatialVector& motion) const {
      SpatialVector sum = pushes;
      for (const Drag& d : each) sum += d.along * (-d.linear * (dot(d.along, motion) - d.flow));
      return sum;
    }
    SpatialMatrix over(SpatialMatrix inertia, double g) const {
      for (const Drag& d : each) inertia.add(g * d.linear, d.along);
      inertia.factor();
      return inertia;
    }
  };
  Dampers at(const SpatialVector& motion) const {
    Dampers dampers;
    for (const Drag& d : drags) {
      const double speed = dot(d.along, motion) - d.flow;
      dampers.each.push_back({d.along, d.flow, d.linear + d.square * std::abs(speed), 0});
    }
    for (const Foil& f : foils) {
      Vec3 w;
      for (int i = 0; i < 3; ++i) w[i] = dot(f.axes[i], motion) - f.flow[i];
      const double own = w.x;
      if (f.race > 0) w.x = std::sqrt(std::max(w.x, 0.0) * w.x + f.race) + std::min(w.x, 0.0);
      SpatialVector across{};
      for (int i = 0; i < 3; ++i) across += f.axes[i] * f.normal[i];
      const double flow = dot(f.flow, f.normal) - (w.x - own) * f.normal.x;
      dampers.each.push_back({across, flow, f.factor * norm(w), 0});
    }
    return dampers;
  }

  /// The motion at the tick's end: half a step to find the coefficients, then the step with them by ROS2
  /// (J. G. Verwer et al., SIAM J. Sci. Comput. 20, 1999), of second order and L-stable.
  SpatialVector solve(const SpatialVector& from) const {
    constexpr double longest = 1.0 / 60;
    const int steps = std::max(1, static_cast<int>(std::ceil(dt / longest - 1e-9)));
    const double h = dt / steps, g = (1 - 0.70710678118654752) * h;
    const SpatialMatrix inertia(body.mass, body.inertia());
    SpatialVector motion = from;
    for (int i = 0; i < steps; ++i) {
      const Dampers begun = at(motion);
      const SpatialVector rate = begun.over(inertia, 0.5 * h).solve(begun.force(pushes, motion));
      const Dampers dampers = at(motion + rate * (0.5 * h));
      const SpatialMatrix matrix = dampers.over(inertia, g);
      const SpatialVector k1 = matrix.solve(dampers.force(pushes, motion));
      const SpatialVector k2 = matrix.solve(dampers.force(pushes, motion + k1 * h) - inertia.times(k1) * 2.0);
      motion += (k1 * 1.5 + k2 * 0.5) * h;
    }
    return motion;
  }
};

Boat::Boat(const BoatTuning& tuning, BodyId body, const Surroundings& surroundings) : tuning_(tuning), body_(body) {
  check(tuning);
  if (surroundings.facts(body).mass <= 0) fail({{}, "actor.body", "a body that is not dynamic", "a dynamic body", {}});
}

void Boat::step(const BoatIntent& intent, Surroundings& surroundings, double dt) {
  if (!(dt > 0)) return;
  const BodyFacts body = surroundings.facts(body_);
  if (body.mass <= 0) return;
  const Vec3 gravity = surroundings.gravity(body.centre);
  const Quat half_way = normalised(rotation(body.spin * (0.5 * dt)) * body.pose.orientation);
  Tick tick{tuning_,
            state_,
            surroundings,
            dt,
            body,
            normalised(-gravity, {0, 1, 0}),
            rotate(half_way, {1, 0, 0}),
            rotate(half_way, {0, 1, 0}),
            rotate(half_way, {0, 0, 1}),
            {},
            {}};
  tick.feel_hull();
  tick.drive(asked_share(intent.throttle), asked_share(intent.steer));
  const SpatialVector from{body.velocity_at(body.centre), body.spin}, change = tick.solve(from) - from;
  surroundings.force(body_, change.linear * (body.mass / dt), body.centre);
  surroundings.torque(body_, body.inertia() * change.angular * (1 / dt));
}

}  // namespace jugend
