// What a vehicle is made from: springs sized by the weight that rests on each wheel, brakes and drive by the mass.
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <jugend/base/elementary.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/fetch.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/vehicle/detail/vehicle_tick.hpp>
#include <jugend/motion/vehicle/vehicle_sizing.hpp>

namespace jugend {
namespace {

/// What each wheel carries at rest: the shares of least squares that bear the weight without turning the body, one
/// plane over the wheels, l = a + b x + c z. Up to three wheels leave no choice; more share as equal springs would.
std::vector<double> rest_loads(std::span<const WheelTuning> wheels, double weight) {
  // B Bᵀ (a, b, c) = (weight, 0, 0), by Gauss and Jordan; wheels in a row leave one of b and c without a meaning.
  double m[3][4] = {{0, 0, 0, weight}, {}, {}};
  for (const WheelTuning& w : wheels) {
    const double row[] = {1, w.mount.x, w.mount.z};
    for (int r = 0; r < 3; ++r) {
      for (int c = 0; c < 3; ++c) m[r][c] += row[r] * row[c];
    }
  }
  const double scale[] = {m[0][0], m[1][1], m[2][2]};
  double plane[3] = {};
  bool used[3] = {};
  for (int k = 0; k < 3; ++k) {
    used[k] = m[k][k] > 1e-9 * scale[k] && scale[k] > 0;
    if (!used[k]) continue;
    for (int r = 0; r < 3; ++r) {
      const double times = r == k ? 0.0 : m[r][k] / m[k][k];
      for (int c = k; c < 4; ++c) m[r][c] -= times * m[k][c];
    }
  }
  for (int k = 0; k < 3; ++k) plane[k] = used[k] ? m[k][3] / m[k][k] : 0.0;
  std::vector<double> loads;
  double sum = 0, pitch = 0, roll = 0, least = weight, reach = 0;
  for (const WheelTuning& w : wheels) {
    const double load = plane[0] + plane[1] * w.mount.x + plane[2] * w.mount.z;
    loads.push_back(load);
    sum += load, pitch += load * w.mount.x, roll += load * w.mount.z, least = std::min(least, load);
    reach = std::max({reach, std::abs(w.mount.x), std::abs(w.mount.z)});
  }
  const double off = std::max({std::abs(sum - weight), std::abs(pitch) / reach, std::abs(roll) / reach});
  if (!(off < 1e-6 * weight) || least <= 0)
    fail({{},
          "axle.1.ahead",
          "wheels that the weight does not lie between",
          filled(
              "wheels on both sides of the centre of mass, as axle.1.ahead, axle.{}.ahead and axle.1.track place them",
              wheels.back().axle + 1),
          {}});
  return loads;
}

[[noreturn]] void refuse(int axle, const char* key, const std::string& found, const std::string& allowed) {
  fail({{}, filled("axle.{}.{}", axle + 1, key), found, allowed, {}});
}

/// Numbers that are allowed each by itself, and together hold a body where it cannot stand or go.
void refuse_stance(std::span<const WheelTuning> wheels, std::span<const Strut> struts, double ride_height) {
  if (ride_height <= 0)
    refuse(wheels[0].axle, "mount_height",
           filled("mounts that hold the centre of mass {} m under the ground", as_text(-ride_height)),
           "mounts lower by that, or a longer axle.1.spring.rest_length");
  // A body so high on its wheels is thrown over by its own drive and brakes.
  double first = wheels[0].mount.x, last = first, left = 0, right = 0;
  for (const WheelTuning& w : wheels) {
    first = std::max(first, w.mount.x), last = std::min(last, w.mount.x);
    left = std::min(left, w.mount.z), right = std::max(right, w.mount.z);
  }
  constexpr double most_of_base = 1.5, most_of_track = 2;
  const auto too_high = [&](double wide, double most, const char* what, std::string_view keys) {
    if (wide > 0 && ride_height > most * wide)
      refuse(wheels[0].axle, "spring.rest_length",
             filled("a centre of mass {} m above the ground", as_text(ride_height, 3)),
             filled("at most {} times {}, {} m: shorter struts, a smaller axle.1.radius, or wheels wider apart ({})",
                    most, what, as_text(most * wide, 3), keys));
  };
  too_high(first - last, most_of_base, "from the first axle to the last",
           filled("axle.1.ahead, axle.{}.ahead", wheels.back().axle + 1));
  too_high(right - left, most_of_track, "from the left wheels to the right ones", "axle.1.track");
  const auto holds = [&](std::size_t i) {
    return wheels[i].suspension.rest_length - struts[i].sag + wheels[i].radius - wheels[i].mount.y;
  };
  constexpr double steepest = 0.4;  // of the base
  for (std::size_t i = 1; i < wheels.size(); ++i) {
    if (const double off = std::abs(holds(i) - holds(0)); off > steepest * (first - last) && first > last)
      refuse(wheels[i].axle, "radius",
             filled("wheels that hold it {} m higher or lower than axle.1.radius and its spring do", as_text(off, 3)),
             filled("at most {} times from the first axle to the last, {} m", steepest,
                    as_text(steepest * (first - last), 3)));
  }
}

/// The same for masses and springs.
void refuse_weights(std::span<const WheelTuning> wheels, std::span<const Strut> struts, std::span<const double> loads,
                    const BodyFacts& body) {
  double turning = 0, unsprung = 0, weight = 0;
  for (std::size_t i = 0; i < wheels.size(); ++i) {
    turning += wheels[i].spin_inertia, unsprung += wheels[i].unsprung_mass, weight += loads[i];
  }
  const Vec3 axle = rotate(body.pose.orientation, {0, 0, 1});
  if (const double own = dot(axle, body.inertia() * axle); turning > own)
    refuse(wheels[0].axle, "spin_inertia", filled("wheels of {} kg m² in all", as_text(turning)),
           filled("at most what the body, by its mass and size, resists to turn about their axles, {} kg m²",
                  as_text(own)));
  if (unsprung > body.mass)
    refuse(wheels[0].axle, "unsprung_mass", filled("wheels of {} kg in all", as_text(unsprung)),
           filled("at most the body's mass, {} kg", as_text(body.mass)));
  constexpr double fastest = 60;  // Hz
  for (std::size_t i = 0; i < wheels.size(); ++i) {
    const double most = same_bits::pow(2 * pi * fastest, 2) * body.mass * loads[i] / weight;
    if (struts[i].stiffness > most)
      refuse(wheels[i].axle, "spring.stiffness", filled("{} N/m", as_text(struts[i].stiffness)),
             filled("at most {} N/m, with which what rests on it of the body's mass swings at 60 Hz", as_text(most)));
  }
}

SteerGeometry steer_geometry(std::span<const WheelTuning> wheels) {
  // The line through (ahead, share of steering) of all wheels, by least squares; two axles fit it exactly.
  double n = 0, sx = 0, ss = 0, sxx = 0, sxs = 0;
  for (const WheelTuning& w : wheels) {
    n += 1, sx += w.mount.x, ss += w.steer, sxx += w.mount.x * w.mount.x, sxs += w.mount.x * w.steer;
  }
  const double spread = n * sxx - sx * sx, slope = spread > 1e-12 ? (n * sxs - sx * ss) / spread : 0;
  if (std::abs(slope) < 1e-9) return {0, 1};
  return {(sx - ss / slope) / n, 1 / slope};
}

}  // namespace

std::vector<WheelTuning> wheels_of(const VehicleTuning& tuning) {
  std::vector<WheelTuning> wheels;
  for (std::size_t a = 0; a < tuning.axles.size(); ++a) {
    const AxleTuning& axle = tuning.axles[a];
    for (const double side : {-0.5, 0.5}) {
      WheelTuning wheel = axle.wheel;
      wheel.mount = {axle.ahead, axle.mount_height, side * axle.track};
      wheel.axle = static_cast<int>(a);
      if (axle.track > 0 || side < 0) wheels.push_back(wheel);
    }
  }
  return wheels;
}

Vehicle::Vehicle(const VehicleTuning& tuning, BodyId body, const Surroundings& surroundings)
    : Vehicle(tuning, wheels_of(tuning), body, surroundings) {}

Vehicle::Vehicle(const VehicleTuning& tuning, std::span<const WheelTuning> wheels, BodyId body,
                 const Surroundings& surroundings, const std::optional<TrackDrive>& tracks)
    : tuning_(tuning),
      makings_(makings_of(body, surroundings)),
      wheels_(wheels.begin(), wheels.end()),
      tracks_(tracks),
      body_(body) {
  check(tuning);
  if (wheels.size() < 2 || wheels.size() > most_wheels)
    fail({{}, "axle", filled("{} wheels", wheels.size()), filled("2 to {} wheels", most_wheels), {}});
  const BodyFacts facts = surroundings.facts(body);
  if (facts.mass <= 0) fail({{}, "actor.body", "a body that is not dynamic", "a dynamic body", {}});
  const double strength = sizing_pull(surroundings.gravity(facts.centre), tuning.length_scale);
  const double weight = facts.mass * strength;
  const std::vector<double> loads = rest_loads(wheels, weight);
  double drives = 0, spinning = 0, feet = 0, hands = 0;
  for (std::size_t i = 0; i < wheels.size(); ++i) {
    const WheelTuning& w = wheels[i];
    Part& part = parts_.emplace_back();
    part.load = loads[i];
    part.strut = strut_of(w.suspension, loads[i], strength, w.radius);
    drives += w.drive, feet += w.brake * loads[i], hands += w.hand_brake * loads[i];
    spinning += w.spin_inertia / (w.radius * w.radius);
    rolling_ += w.tyre.rolling * (loads[i] + w.unsprung_mass * strength);
    const double tyre = w.unsprung_mass > 0 ? (loads[i] + w.unsprung_mass * strength) / w.tyre_stiffness : 0;
    ride_height_ += (w.suspension.rest_length - part.strut.sag + w.radius - tyre - w.mount.y) * loads[i] / weight;
    const double mass = loads[i] / strength;
    double stiffest = std::max(part.strut.stiffness * (1 + part.strut.growth * part.strut.sag) / mass, 0.0);
    // A hub's own hop matters less to the body: 0.39 as fine holds it within 2 %.
    if (w.unsprung_mass > 0)
      stiffest = std::max(stiffest, 0.15 * (w.tyre_stiffness + part.strut.stiffness) / w.unsprung_mass);
    // Stiff dampers as well: one that stops in less than a step what lands would throw it up again.
    const double damping = std::max(part.strut.bump_damping, part.strut.rebound_damping);
    const double of_hub = w.unsprung_mass > 0 ? damping / w.unsprung_mass : 0;
    stiffest_ = std::max({stiffest_, std::sqrt(stiffest), 0.2 * damping / mass, 0.1 * of_hub});
    // Tracks skid whenever they turn: the tread as a spring, too.
    if (tracks_) stiffest_ = std::max(stiffest_, std::sqrt(w.tyre.along_stiffness * strength / w.tyre.relaxation));
  }
  if (drives <= 0) fail({{}, "axle.1.drive", "no driven wheel", "a share above 0 on one axle at least", {}});
  std::vector<Strut> struts;
  for (const Part& part : parts_) struts.push_back(part.strut);
  refuse_stance(wheels, struts, ride_height_);
  refuse_weights(wheels, struts, loads, facts);
  line_up();
  double side = 0;
  for (std::size_t i = 0; i < wheels.size(); ++i) side += std::abs(wheels[i].mount.z) * loads[i] / weight;
  rest_gravity_ = strength;
  tips_at_ = strength * side / std::max(0.1 * ride_height_, ride_height_ - tuning.aids.lower_centre);
  constexpr double slides_at = 0.75;  // of what tips it, that tyres hold sideways where aids keep it down
  const bool kept = tuning.aids.keep_down && tips_at_ > 0;
  const double whole = facts.mass + spinning;
  for (std::size_t i = 0; i < wheels.size(); ++i) {
    const WheelTuning& w = wheels[i];
    WheelConstants& n = table_->wheels[slots_[i] / 4u];
    const std::size_t l = slots_[i] % 4u;
    n.drive.at[l] = w.drive / drives;
    n.side_most.at[l] = kept ? slides_at * tips_at_ / strength : 1e300;
    // By the load that rests on each, so that all of them come to their grip at once.
    n.foot.at[l] = feet > 0 ? tuning.brakes.deceleration * whole * w.radius * w.brake * loads[i] / feet : 0;
    n.hand.at[l] = hands > 0 ? tuning.brakes.hand * whole * w.radius * w.hand_brake * loads[i] / hands : 0;
  }
  law_ = drive_law(tuning.drive, whole);
  if (tuning.drive.by == DriveBy::engine) engine_.emplace(tuning.drive.engine);
  if (tuning.drive.by == DriveBy::force) force_.emplace(curve_of(tuning.drive.force, "drive.force"));
  steer_ = steer_geometry(wheels_);
  sense_ = tuning.ground_probe;
}

void Vehicle::start_anew() {
  const std::int32_t gear = state_.engine.gear;
  state_ = {};
  state_.engine.gear = gear;
}

void Vehicle::succeed(const Vehicle& former) {
  state_ = former.state_, filter = former.filter, events_ = former.events_;
  bool alike = wheels() == former.wheels();
  for (int i = 0; alike && i < wheels(); ++i)
    alike = (wheel(i).unsprung_mass > 0) == (former.wheel(i).unsprung_mass > 0);
  if (!alike) start_anew();
  if (engine_)
    state_.engine.gear = std::min(state_.engine.gear, static_cast<std::int32_t>(tuning_.drive.engine.gears.size()));
}

void Vehicle::set_tuning(const VehicleTuning& tuning, const Surroundings& surroundings) {
  Vehicle next(tuning, body_, surroundings);
  next.succeed(*this);
  *this = std::move(next);
}

void Vehicle::remake(const Surroundings& surroundings) {
  Vehicle next(tuning_, wheels_, body_, surroundings, tracks_);
  next.succeed(*this);
  *this = std::move(next);
}

/// Wheels of one axle side by side, in pairs; a wheel without another leaves its neighbour's place empty.
void Vehicle::line_up() {
  std::array<int, most_wheels> partner;
  partner.fill(-1);
  std::size_t pairs = 0;
  for (std::size_t i = 0; i < wheels_.size(); ++i) {
    std::size_t slot = 2 * pairs;
    for (std::size_t j = 0; j < i; ++j) {
      if (wheels_[j].axle != wheels_[i].axle || partner[j] >= 0) continue;
      partner[j] = static_cast<int>(i), partner[i] = static_cast<int>(j);
      slot = slots_[j] + 1u;
    }
    if (partner[i] < 0) ++pairs;
    slots_[i] = static_cast<std::uint8_t>(slot);
  }
  table_ = std::make_shared<WheelTable>();
  table_->wheels.resize((pairs + 1) / 2);
  has_gaps_ = 4 * table_->wheels.size() != wheels_.size();
  for (WheelConstants& n : table_->wheels) {
    for (std::size_t l = 0; l < 4; ++l) n.spin_inertia.at[l] = n.radius.at[l] = 1;  // where there is none
  }
  for (std::size_t i = 0; i < wheels_.size(); ++i) {
    const WheelTuning& w = wheels_[i];
    const TyreTuning& tyre = w.tyre;
    const Part& part = parts_[i];
    const Strut& s = part.strut;
    WheelConstants& n = table_->wheels[slots_[i] / 4u];
    const std::size_t l = slots_[i] % 4u;
    n.mount.set(l, w.mount);
    n.radius.at[l] = w.radius, n.rest_length.at[l] = w.suspension.rest_length, n.rest_load.at[l] = part.load;
    n.stiffness.at[l] = s.stiffness, n.growth.at[l] = s.growth;
    n.bump_damping.at[l] = s.bump_damping, n.rebound_damping.at[l] = s.rebound_damping;
    n.bump.at[l] = s.bump, n.droop.at[l] = s.droop, n.pull.at[l] = s.pull;
    n.stop_from.at[l] = s.stop_from;
    n.give.at[l] = s.give, n.give_rate.at[l] = s.give_stiffness, n.most_damping.at[l] = s.most_damping;
    n.stop_rate.at[l] = s.bump > s.stop_from ? s.stop_stiffness / (s.bump - s.stop_from) : 0;
    n.grip.at[l] = tyre.grip, n.load_fade.at[l] = tyre.load_fade,
    n.brush.at[l] = tyre.model == TyreModel::brush ? 1 : 0;
    n.along_slope.at[l] = tyre.along_stiffness / tyre.relaxation;
    n.side_slope.at[l] = tyre.side_stiffness / tyre.relaxation;
    n.per_load.at[l] = 1 / part.load, n.per_relaxation.at[l] = 1 / tyre.relaxation, n.rolling.at[l] = tyre.rolling;
    if (w.unsprung_mass > 0) {
      n.unsprung.at[l] = w.unsprung_mass, n.per_unsprung.at[l] = 1 / w.unsprung_mass;
      n.tyre_stiffness.at[l] = w.tyre_stiffness;
      n.tyre_damping.at[l] = 0.02 * std::sqrt(w.tyre_stiffness * w.unsprung_mass);
      has_hubs_ = true;
    } else {
      has_light_ = true;
    }
    n.spin_inertia.at[l] = w.spin_inertia, n.steer.at[l] = w.steer;
    if (partner[i] < 0) continue;
    const auto other = static_cast<std::size_t>(partner[i]);
    n.pair.at[l] = 1;
    n.anti_roll.at[l] = 0.5 * (w.anti_roll + wheels_[other].anti_roll);
    has_bars_ |= n.anti_roll.at[l] > 0;
    n.joined.at[l] = w.drive + wheels_[other].drive > 0 ? 1 : 0;
  }
}

/// rad/s of what turns the driven wheels for 1 m/s.
double Vehicle::shaft_per_speed() const {
  double sum = 0;
  for (const WheelConstants& n : table_->wheels) {
    for (std::size_t l = 0; l < 4; ++l) sum += n.drive.at[l] / n.radius.at[l];
  }
  return sum;
}

/// N of a drive without gears while the fastest of what it drives goes at `fastest` over the ground, and the body at
/// `speed` through the air.
double Vehicle::drive_force(double throttle, double fastest, double speed) const {
  if (force_) return throttle * force_->value(std::abs(fastest));
  const double air = tuning_.air.drag * speed * std::abs(speed);
  return law_.force(fastest, throttle) + std::abs(throttle) * air + std::clamp(10 * throttle, -1.0, 1.0) * rolling_;
}

namespace {
constexpr double steered_share = 0.5;  // of what tips it: springs swing over
}

double Vehicle::tipping_grip() const { return tips_at_ > 0 ? tips_at_ / rest_gravity_ : infinity; }

double Vehicle::most_turn(double speed) const {
  if (!tracks_) return 0;
  if (!tuning_.aids.keep_down || tips_at_ == 0) return tracks_->turn_rate;
  return std::min(tracks_->turn_rate, steered_share * tips_at_ / std::max(std::abs(speed), 1e-9));
}

double Vehicle::most_steer(double speed) const {
  const double most = jugend::most_steer(tuning_.steering, speed);
  if (!tuning_.aids.keep_down || tips_at_ == 0) return most;
  return std::min(most, same_bits::atan2(steered_share * tips_at_ * std::abs(steer_.base), speed * speed));
}

double Vehicle::full_force(double speed, int gear) const {
  if (!engine_) return drive_force(1, speed, speed);
  const double shaft = shaft_per_speed();
  return engine_->output({.gear = gear}, speed * shaft, 1).torque * shaft;
}

double Vehicle::gear_speed(int gear) const {
  const EngineTuning& e = tuning_.drive.engine;
  return jugend::gear_speed(e.redline, e.gears[static_cast<std::size_t>(gear - 1)], e.final, 1 / shaft_per_speed());
}

Pose Vehicle::wheel_pose(int i, const Pose& body, const Vec3& centre) const {
  const WheelTuning& w = wheel(i);
  const WheelState& s = state_.wheels[static_cast<std::size_t>(i)];
  const double given = w.unsprung_mass > 0 ? s.hub : s.compression;
  const double drop = w.suspension.rest_length - std::clamp(given, -w.suspension.droop, w.suspension.bump);
  const Vec3 hub = centre + rotate(body.orientation, w.mount - Vec3{0, drop, 0});
  return {hub, body.orientation * rotation({0, s.steer, 0}) * rotation({0, 0, -s.angle})};
}

void Vehicle::step(const VehicleIntent& intent, Surroundings& surroundings, double dt) {
  if (!(dt > 0)) return;
  // Among many vehicles none of this one is in the caches: have it come while the body is asked for.
  fetch(&tuning_.steering, sizeof(SteeringTuning));
  fetch(&tuning_.brakes, sizeof(VehicleTuning) - offsetof(VehicleTuning, brakes));
  fetch(table_->wheels.data(), table_->wheels.size() * sizeof(WheelConstants));
  fetch(state_.wheels.data(), wheels_.size() * sizeof(WheelState));
  fetch(&state_.engine, sizeof(VehicleState) - offsetof(VehicleState, engine));
  events_.clear();
  // What a tick works on is no state: one place for all vehicles of a thread stays in its cache.
  static thread_local std::array<WheelContact, most_wheels> contacts;
  static thread_local std::array<WheelBatch, most_axles> teams;
  const auto mine = std::span(teams).first(table_->wheels.size());
  if (has_gaps_) std::ranges::fill(mine, WheelBatch{});
  Tick(*this, std::span(contacts).first(wheels_.size()), mine, intent, surroundings, dt).run();
}

}  // namespace jugend
