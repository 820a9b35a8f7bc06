// Two tracks' spins in a stage of a vehicle's step: a steering drive ties them, brakes hold them. Inner to the vehicle.
//
// With I, T and P summed over the wheels of a side, x the torque that the steering drive passes from the left track to
// the right one, y that by which the drive holds both tracks' mean still, and k the body's rates, the stage reads
//   I w' = T ± x + y + g P k,   x = c (told - (right - left)),   y = -e (left + right) / 2,
// up to the most of x and y: two equations that are solved by hand. P w' is what the spins give back to the body's six.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/spatial.hpp>

namespace jugend {

class TrackPair {
 public:
  struct Side {
    SpatialVector pulls;                                  // N s: what its tyres' hold, by radius, takes of the body's
    double resists = 0, torque = 0, brake = 0, spin = 0;  // kg m², N m, N m at the most, rad/s
    double rate = 0;                                      // rad/s², before the body gives way
    double braked = 0;                                    // N m, as its brake acts in this step
    bool locked = false;                                  // does its brake bring it to rest in this step?
    double stops = 0;                                     // rad/s²: what that takes
  };
  std::array<Side, 2> sides{};  // left, right

  /// Of the steering drive: rad/s by which the right one is to be faster, N m at the most, and N m that hold their
  /// mean.
  void tell(double difference, double most, double held) {
    told_ = difference, most_ = most, held_ = held;
    across_.stiff = stiffly * most, mean_.stiff = 0.5 * stiffly * held;
  }

  /// What slides and what holds in this step of `h` s, `g` = γ h: asked of the step's end, since what was right as it
  /// began would overshoot by far. The first way that agrees with itself counts.
  void decide(double h, double g) {
    h_ = h;
    for (Side& side : sides) side.stops = -side.spin / h;
    const bool agrees = agree(true, true) || agree(false, false) || agree(true, false) || agree(false, true);
    if (!agrees) agree(false, false);
    const double by_across = across_.is_most ? 0 : g * across_.stiff, by_mean = mean_.is_most ? 0 : g * mean_.stiff;
    const double own_left = left().resists + by_across + by_mean, own_right = right().resists + by_across + by_mean;
    shared_ = by_mean - by_across;
    const double free = own_left * own_right - shared_ * shared_;
    const bool both = !left().locked && !right().locked;
    gives_left_ = left().locked ? 0 : both ? own_right / free : 1 / own_left;
    gives_right_ = right().locked ? 0 : both ? own_left / free : 1 / own_right;
    gives_across_ = both ? -shared_ / free : 0;
  }

  /// The rates as far as they are known, in the first stage or the second.
  void solve(bool first) {
    const double x = across_.torque(passes(), most_), y = mean_.torque(holds(), held_);
    const double from_left = left().torque + y - x + left().braked,
                 from_right = right().torque + y + x + right().braked;
    // A step sums up thrice half the first rate and half the second: so these two end it at rest.
    for (Side& side : sides) side.rate = first ? side.stops : -side.stops;
    const double known_left = from_left - (right().locked ? shared_ * right().rate : 0);
    const double known_right = from_right - (left().locked ? shared_ * left().rate : 0);
    if (!left().locked) sides[0].rate = gives_left_ * known_left + gives_across_ * known_right;
    if (!right().locked) sides[1].rate = gives_right_ * known_right + gives_across_ * known_left;
  }

  /// rad/s² of both, once the body's rates are known.
  std::array<double, 2> rates(double g, const SpatialVector& body) const {
    const double by_left = g * dot(left().pulls, body), by_right = g * dot(right().pulls, body);
    return {left().rate + gives_left_ * by_left + gives_across_ * by_right,
            right().rate + gives_right_ * by_right + gives_across_ * by_left};
  }

  /// What the spins give way by is taken off the body's matrix: g² Pᵀ (gives) P, by sums of squares.
  void take_off(double g, SpatialMatrix& matrix) const {
    matrix.add(-g * g * (gives_left_ - gives_across_), left().pulls);
    matrix.add(-g * g * (gives_right_ - gives_across_), right().pulls);
    matrix.add(-g * g * gives_across_, left().pulls + right().pulls);
  }

 private:
  static constexpr double stiffly = 8;  // s/rad: how soon both drives come to their most
  struct Tie {                          // stiff up to its most
    double stiff = 0, limit = 0;
    bool is_most = false;
    double torque(double wanted, double most) const { return is_most ? std::copysign(most, limit) : wanted; }
    double at_end(double most) const { return std::clamp(limit, -most, most); }
  };
  const Side& left() const { return sides[0]; }
  const Side& right() const { return sides[1]; }
  double passes() const { return across_.stiff * (told_ - (right().spin - left().spin)); }
  double holds() const { return -mean_.stiff * (left().spin + right().spin); }

  /// Takes it that brakes bring these to rest, and the others slide; tells whether the step's end bears that out.
  bool agree(bool hold_left, bool hold_right) {
    sides[0].locked = hold_left, sides[1].locked = hold_right;
    std::array<double, 2> net{};
    for (Side& side : sides) side.braked = 0;
    for (int again = 0; again < 2; ++again) {  // which way a brake acts on what begins to turn shows once it is tied
      double gives[2], goes[2];
      for (std::size_t i = 0; i < 2; ++i) {
        const Side& side = sides[i];
        gives[i] = side.locked ? 0 : 1 / side.resists;
        goes[i] = side.locked ? side.stops : gives[i] * (side.torque + side.braked);
      }
      const double tied = h_ * (gives[0] + gives[1]);
      across_.limit = (passes() - h_ * across_.stiff * (goes[1] - goes[0])) / (1 + across_.stiff * tied);
      mean_.limit = (holds() - h_ * mean_.stiff * (goes[0] + goes[1])) / (1 + mean_.stiff * tied);
      net = {left().torque + mean_.at_end(held_) - across_.at_end(most_),
             right().torque + mean_.at_end(held_) + across_.at_end(most_)};
      for (std::size_t i = 0; i < 2; ++i)
        sides[i].braked = sides[i].locked ? 0 : -std::copysign(sides[i].brake, onwards(i, net[i]));
    }
    across_.is_most = std::abs(across_.limit) > most_, mean_.is_most = std::abs(mean_.limit) > held_;
    bool agrees = true;
    for (std::size_t i = 0; i < 2; ++i) {
      const Side& side = sides[i];
      const double ends = side.spin + h_ * (net[i] + side.braked) / side.resists;
      agrees &= side.locked ? std::abs(net[i] - side.resists * side.stops) <= side.brake
                            : side.brake == 0 || ends * onwards(i, net[i]) >= 0;
    }
    return agrees;
  }
  /// Which way it turns, or would begin to: by itself where its brake does not hold that, else as it is tied.
  double onwards(std::size_t which, double tied) const {
    constexpr double standing = 1e-6;  // rad/s
    const Side& side = sides[which];
    if (std::abs(side.spin) > standing) return side.spin;
    return std::abs(side.torque) > side.brake ? side.torque : tied;
  }

  double told_ = 0, most_ = 0, held_ = 0, h_ = 0, shared_ = 0;
  double gives_left_ = 0, gives_right_ = 0, gives_across_ = 0;  // 1/(kg m²): by how much torques on the sides turn them
  Tie across_, mean_;
};

}  // namespace jugend
