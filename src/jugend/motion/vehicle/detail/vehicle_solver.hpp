// Solves the motion of body and wheels over a tick, four wheels side by side. Inner to the vehicle.
//
// Springs, dampers, tyres and wheels are one stiff system. It is solved by the two-stage Rosenbrock method ROS2 with
// γ = 1 - 1/√2, which is of second order whatever approximates the slopes A, and L-stable where they are right
// (J. G. Verwer, E. J. Spee, J. G. Blom, W. Hundsdorfer, SIAM J. Sci. Comput. 20, 1999, 1456-1480):
//   (1 - γ h A) k1 = f(y),   (1 - γ h A) k2 = f(y + h k1) - 2 k1,   y += h (3 k1 + k2) / 2.
// What belongs to one wheel, its spin, stretch and hub, is eliminated by hand: six unknowns are left, and a matrix
// that each spring and tyre adds its part to.
//
// vehicle_stages.hpp: the forces of a stage, and what elimination makes of them; those of tyres: vehicle_tyres.hpp.
// vehicle_steps.hpp: from step to step.
// vehicle_motion.cpp: its builds for each kind of lanes.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/vec_lanes.hpp>
#include <jugend/motion/vehicle/detail/track_pair.hpp>
#include <jugend/motion/vehicle/detail/vehicle_tick.hpp>

namespace jugend {

/// A direction and its moment, or a motion, for each of four wheels.
template <class L>
struct SixLanes {
  L at[6];
  JUGEND_INLINE static SixLanes of(const SixOf4& r) {
    return {{L::of(r.linear.x), L::of(r.linear.y), L::of(r.linear.z), L::of(r.angular.x), L::of(r.angular.y),
             L::of(r.angular.z)}};
  }
  JUGEND_INLINE void store(SixOf4& r) const {
    at[0].store(r.linear.x), at[1].store(r.linear.y), at[2].store(r.linear.z);
    at[3].store(r.angular.x), at[4].store(r.angular.y), at[5].store(r.angular.z);
  }
  JUGEND_INLINE SixLanes operator*(const L& by) const {
    return {{at[0] * by, at[1] * by, at[2] * by, at[3] * by, at[4] * by, at[5] * by}};
  }
  JUGEND_INLINE SixLanes operator+(const SixLanes& b) const {
    return {{at[0] + b.at[0], at[1] + b.at[1], at[2] + b.at[2], at[3] + b.at[3], at[4] + b.at[4], at[5] + b.at[5]}};
  }
  JUGEND_INLINE SixLanes crossed() const {
    return {{at[0].crossed(), at[1].crossed(), at[2].crossed(), at[3].crossed(), at[4].crossed(), at[5].crossed()}};
  }
  JUGEND_INLINE friend L dot(const SixLanes& a, const SpatialVector& b) {
    return (a.at[0] * L::of(b.linear.x) + a.at[1] * L::of(b.linear.y) + a.at[2] * L::of(b.linear.z)) +
           (a.at[3] * L::of(b.angular.x) + a.at[4] * L::of(b.angular.y) + a.at[5] * L::of(b.angular.z));
  }
};

template <class L>
class Vehicle::Tick::Solver {
 public:
  explicit Solver(Tick& the_tick) : tick(the_tick) {}
  /// Over the whole tick, from where the body is and how it moves: how far it comes, and its motion then.
  JUGEND_INLINE void run(SpatialVector& offset, SpatialVector& now);

 private:
  using Mask = typename L::Mask;
  using S = SixLanes<L>;
  using V = Vec3Lanes<L>;

  Tick& tick;
  double h = 0, G = 0;           // s of a step, and γ times that
  SpatialMatrix inertia{0, {}};  // of the body and, across their struts, of the wheels
  SpatialVector weight{};        // and what pulls at them
  SpatialMatrix matrix{0, {}};
  Vec3 wheels_spin{};  // kg m²/s together, at the step's start
  L lower[21];         // what the wheels add to the matrix
  // The stage: where, how fast, when; what its right-hand side takes away; what the first one gave.
  SpatialVector x{}, vel{}, step_x{}, taken{}, first{};
  double t = 0, time_rate = 1, forward = 0, engine_torque = 0, engine_slope = 0;

  JUGEND_INLINE static L number(double value) { return L::of(value); }
  JUGEND_INLINE static Mask is(const Doubles4& flag) { return number(0) < L::of(flag); }

  JUGEND_INLINE void stand_on(WheelBatch& team, const WheelConstants& n, const Mask& which) const;
  JUGEND_INLINE void prepare();
  JUGEND_INLINE void follow_stretch(WheelBatch& team, const SpatialVector& unforeseen) const;
  JUGEND_INLINE void follow_ground(WheelBatch& team, const Mask& which) const;
  double come(std::size_t wheel, const SpatialVector& offset, double time) const;
  JUGEND_INLINE void go_to_piece(std::size_t wheel, std::size_t piece);
  void stop_at_wall(std::size_t wheel, SpatialVector& offset, SpatialVector& now, double time) const;

  JUGEND_INLINE SpatialVector body_forces() const;
  JUGEND_INLINE void engine(int k);
  struct StrutForce {
    L force, stiffness, damping;
  };
  JUGEND_INLINE static StrutForce strut(const WheelConstants& n, const L& compression, const L& rate);
  struct Grip;
  struct Upright {  // what holds a team's wheels down and the body up
    L height, known;
    Mask near, heavy;
  };
  JUGEND_INLINE void add(const L& d, const S& j);
  JUGEND_INLINE static void push(L (&force)[6], const S& j, const L& by);
  template <int k>
  JUGEND_INLINE SpatialVector stage();
  template <int k>
  JUGEND_INLINE void bars(WheelBatch& team, const WheelConstants& n, const Upright& up, L (&force)[6]);
  template <int k>
  JUGEND_INLINE void spring(WheelBatch& team, const WheelConstants& n, const Upright& up, const L& rate, L (&force)[6]);
  template <int k>
  JUGEND_INLINE void hub(WheelBatch& team, const WheelConstants& n, const Upright& up, const L& rate, L (&force)[6]);
  // vehicle_tyres.hpp
  struct Tread;
  struct TyreForce;
  template <int k>
  JUGEND_INLINE Tread tread(const WheelBatch& team, const WheelConstants& n) const;
  JUGEND_INLINE TyreForce tyre_force(const WheelConstants& n, const Grip& grip, Tread& m) const;
  JUGEND_INLINE void tyre_slopes(WheelBatch& team, const Grip& grip, const Tread& m, const TyreForce& f,
                                 const L& decay) const;
  template <int k>
  JUGEND_INLINE void tyre(WheelBatch& team, const WheelConstants& n, L (&force)[6]);
  struct Drive {
    L torque, slope;
  };
  template <int k>
  JUGEND_INLINE Drive drive(const WheelBatch& team, const WheelConstants& n, const L& spin) const;
  template <int k>
  JUGEND_INLINE Drive aided_drive(const WheelBatch& team, const WheelConstants& n, const Tread& m, const L& room) const;
  JUGEND_INLINE L of_both(const WheelConstants& n, const L& value) const;
  JUGEND_INLINE void hold_spin(WheelBatch& team, const WheelConstants& n, const Tread& m, const L& force_along,
                               const Drive& d, const L& room);
  // vehicle_tracks.hpp
  TrackPair tracks;
  template <class Act>
  void each_on_tracks(Act act) const;
  void join_tracks() const;
  template <int k>
  void turn_tracks(SpatialVector& force);
  template <int k>
  JUGEND_INLINE void follow(const SpatialVector& rate);
  JUGEND_INLINE void advance(SpatialVector& offset, SpatialVector& now, double& time);
  JUGEND_INLINE void finish_step(WheelBatch& team, const WheelConstants& n, const Vec3& turn, double time);

  void stop_hub(WheelBatch& team, const WheelConstants& n, std::size_t lane, SpatialVector& now) const;
  JUGEND_INLINE void stop_body(SpatialVector& offset, SpatialVector& now, double time) const;
  bool press_whole(SpatialVector& offset, SpatialVector& now, double time) const;
};

}  // namespace jugend
