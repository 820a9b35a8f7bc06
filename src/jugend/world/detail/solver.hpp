// One step of a world: sub-steps in which contacts and joints are solved in turn. Inner to the world.
//
// Kicks by forces and drifts by velocities take turns, each a sub-step long, the first and the last kick half
// one (leapfrog), so that free flight is exact. Before a drift contacts and joints are solved for the
// positions that it will reach; after it for velocities alone, which takes away what only served to push
// bodies apart. Small sub-steps with one round each: Macklin et al., "Small Steps in Physics Simulation", SCA 2019.
// Soft constraints as implicit springs: Lacoursière, "Ghosts and Machines", PhD thesis, Umeå 2007.
#pragma once

#include <atomic>
#include <jugend/base/array.hpp>
#include <jugend/base/workers.hpp>
#include <jugend/shape/shape.hpp>
#include <jugend/world/detail/state.hpp>
#include <jugend/world/gravity_field.hpp>
#include <optional>
#include <span>

namespace jugend::world_state {

/// What constraints need of a body. Number 0 stands for all that never moves. Lanes read it as rows of four numbers.
struct alignas(64) SolverBody {
  Vec3 velocity, spin;
  Vec3 moved, turned;  // since the step's start
  Vec3 inverse_mass;   // by axis, since some may be locked
  Sym3 inverse_inertia;
  Vec3 acceleration;          // m/s²
  Vec3 warm_push, warm_turn;  // what impulses like the last sub-step's will do to it at the next kick
};

/// What integration needs of it.
struct SolverPose {
  Vec3 centre;
  Quat orientation;
  Vec3 steady;           // m/s², all but gravity
  double gravity_share;  // of the gravity where it is
  Vec3 torque;           // N m, world axes
  double inverse_mass;   // 1/kg, locks or not
  Vec3 moments;
  Quat principal;
  double linear_damping, angular_damping, speed_limit, spin_limit;
  std::uint32_t body;
  std::uint8_t locks;
  bool dynamic;
  bool tumbles;  // its moments differ, so that spin alone changes its axis
  bool needle;   // they differ so much that a small turn changes how heavy it is at a point
};

/// What water does to a body: v' = lift / mass + driven - drag v, spin' likewise with `turn`.
struct Water {
  Vec3 lift, turn;  // N, N m about the centre
  double drag = 0;  // 1/s
  Vec3 driven;      // m/s²: drag times the flow
};

struct PointRow {
  Vec3 lever_a, lever_b;                   // in the middle of the coming sub-step
  Vec3 arm_a, arm_b;                       // what the normal turns about, as found
  double separation;                       // at the step's start
  double mass;                             // along the normal
  double yields;                           // where directions are locked; else 1
  double across_11, across_12, across_22;  // inverse of the tangential mass matrix
  double push, slip_1, slip_2;             // impulses of this sub-step
  double warm, warm_1, warm_2;             // and what they start from
  double sum, sum_1, sum_2;                // over the step
  Vec3 along_a, along_b;                   // the levers as they were found
};

struct ContactRow {
  Vec3 normal, tangent_1, tangent_2;
  double friction;
  double belt_1, belt_2;  // m/s, of the surfaces' own motion
  double restitution, rolling, spinning;
  double approach;  // m/s, the fastest of its points before the positions of this sub-step were solved
  double rolled;    // impulse used against rolling in this sub-step
  double spun;
  std::uint32_t a, b;  // solver bodies
  std::uint32_t first, count;
  std::uint32_t contact, pair;  // places in the state
  double slid;                  // m since the last look
  double fresh_for;             // m: when it has slid so far it is looked at again
  double spare;                 // m between the two when it was found; infinite: not asked for
  Vec3 spare_moved;             // of a against b, by then
  Vec3 spare_turned_a, spare_turned_b;
  Vec3 given;            // N s to a in this step, by points that others have taken the place of
  double turned_before;  // rad about the normal, of whose points they are, when they were found
  Vec3 moved_before;     // of a against b, likewise
  bool of_a;             // the points lie on a, and go with it
  bool sure;             // they touch, or have been seen to in this step
  bool asks;             // in this sub-step, after those that are sure
  bool hit;              // it has rebounded in this sub-step
  bool load_given;       // and the load that the kick gave it stays given
  bool looked;           // found within the step
  bool passed;           // its points are: they are past one another
  bool reweigh;          // one of them is a needle
  bool jams;             // a point of it can hardly give way, since directions are locked
  bool bounded;          // it may give no energy: it jams, is a needle's, or lies deep in the other
  bool convex;           // of two convex shapes
  bool one_way;          // never looked at again
  bool parted;           // its normal parts them: `spare` is along it; else from any side
};

/// Up to four contacts of one colour, to be solved side by side.
struct ContactBatch {
  ContactRow* at[4];
  std::size_t count = 0;
};

/// An impulse as it builds up: of this sub-step, what it starts from, and over the step.
template <class T>
struct Impulse {
  T now{}, warm{}, sum{};
  void start(const T& carried) { warm = carried, sum = T{}, now = T{}; }
  void finish(double kick) { sum += now, warm = now * (1 / kick); }
  /// After it has finished: only a share of it counts.
  void take_back(double share) { sum += now * (share - 1), warm = warm * share; }
};

struct JointRow {
  std::uint32_t joint, a, b;
  Impulse<Vec3> point, turn;                   // at its place, and about it
  Impulse<double> limit, motor, spring, cone;  // along or about its axis
  Vec3 axial;                                  // what those along the axis came to over the step, as it turned
};

/// What is solved together: bodies that are awake, pairs and joints among them and with what moves by no force.
struct Batch {
  std::span<const std::uint32_t> bodies, pairs, joints;
  bool flies = false;  // nothing touches or holds them
};

/// What a row is solved for: the positions that the drift will reach; after it velocities; those after the last kick.
enum class Phase : std::uint8_t { positions, velocities, last };

struct PairVelocities;
class Levers;

class Solver {
 public:
  struct Settings {
    double dt = 0;
    int substeps = 1;
    int part = 0, parts = 1;  // which of the steps of a tick this is
    double tolerance = 0;     // m: nearer is touching
    double slop = 0;          // m: what was held is held still, a little apart
    double push_speed = 3;    // m/s at most, to part bodies that are inside one another
    double scale = 1;         // length scale
    const GravityField* field = nullptr;
    const std::vector<Shape>* shapes = nullptr;
    std::span<const Water> water;  // of each body, or empty
  };
  static constexpr std::size_t points_a_row = 4;  // another look may find more than there are
  void reserve(std::size_t bodies, std::size_t contacts, std::size_t joints);
  /// Solves and moves the batch's bodies.
  void run(State& state, const Workers& workers, const Settings& settings, const Batch& batch);

 private:
  static constexpr std::size_t body_grain = 128;   // of them at a time to a thread
  static constexpr std::size_t most_colours = 64;  // the last takes all that fits nowhere, one after the other
  struct Colour {
    std::size_t first_contact = 0, contacts = 0, first_joint = 0, joints = 0;
  };

  static void feel(const Water& water, SolverPose& p);
  void load_bodies(State& state, const Workers& workers);
  void load_body(State& state, std::size_t place, std::uint32_t index);
  void list_rails(const State& state);
  std::uint32_t place_of(const State& state, std::uint32_t body) const;
  int steps_in_flight(std::size_t i) const;
  void fly();
  void solve_together(State& state, const Workers& workers);
  using Counts = std::array<std::size_t, most_colours>;
  void colour(State& state);
  void lay_out_rows(const State& state, const Counts& contact_count, const Counts& joint_count);
  void load_rows(State& state, const Workers& workers);
  void store(State& state, const Workers& workers);
  void store_bodies(State& state, const Workers& workers) const;
  void rebound_all(State& state, const Workers& workers);
  template <class Contacts, class Joints>
  void each_colour(const Workers& workers, Contacts&& contacts, Joints&& joints);
  template <class Asked, class Solve>
  void by_four(std::span<ContactRow> rows, Asked&& asked, Solve&& solve);

  /// Is it moved by forces? Those that are stand last.
  bool moves(const SolverBody* body) const { return body > &bodies_[rails_.size()]; }
  void fetch(const ContactRow& row) const;
  void load_contact(const State& state, ContactRow& row);
  void weigh(ContactRow& row);
  double yield_along(const ContactRow& row, const PointRow& p, double inverse_mass) const;
  void set_frame(const State& state, ContactRow& row, const Vec3& normal) const;
  double fresh_for(const State& state, const ContactRow& row, double time) const;
  void place_point(const ContactRow& row, PointRow& p, const Vec3& lever_a, const Vec3& lever_b) const;
  void move_levers(const ContactRow& row, double ahead);
  const SolverBody& owner_of(const ContactRow& row) const { return bodies_[row.of_a ? row.a : row.b]; }

  // contact_looks.cpp
  Pose pose_in(double time, std::uint32_t solver, const Body& body) const;
  Vec3 centre_in(double time, std::uint32_t solver, const Body& body) const;
  bool look(const State& state, const ContactRow& row, double time, double margin, double touch, Contact& found) const;
  double gap_in(const State& state, const ContactRow& row, double time, double limit) const;
  Vec3 given_by(const ContactRow& row) const;
  void take_over(State& state, ContactRow& row, const Contact& found, double time);
  void note_spare(ContactRow& row, double spare, bool parted, double time) const;
  void pass_by(ContactRow& row, double margin, double time) const;
  double first_touch(const State& state, ContactRow& row, double from);
  void let_go(ContactRow& row);
  bool comes_to_touch(State& state, ContactRow& row);
  bool still_touches(State& state, ContactRow& row);
  bool follow(State& state, ContactRow& row);
  double sliding(const ContactRow& row);

  // contact_hits.cpp
  std::optional<double> time_of_hit(ContactRow& row, const PairVelocities& duo, const Levers& levers);
  bool rebound(ContactRow& row);
  bool rebound_now(ContactRow& row, double time, const double (&gap_then)[4]);
  double share_without_gain(const ContactRow& row, const PairVelocities& old, const PairVelocities& duo,
                            const double (&before)[4], double pulled);
  void go_on(const ContactRow& row, double time);

  // contact_wedge.cpp
  bool is_wedged(const State& state);
  Vec3 frame_velocity() const;
  double kinetic_energy(const Vec3& frame) const;
  void note_given();
  void take_back_gain();

  void load_joint(const State& state, JointRow& row);
  void solve_joint(const State& state, JointRow& row, Phase phase);
  template <class L>
  class ContactLanes;  // contact_lanes.hpp
  class Jam;           // contact_jams.hpp
  void solve_contacts(const ContactBatch& batch, Phase phase);
  void rub(const ContactRow& row, PairVelocities& duo);
  void resist_turning(ContactRow& row);
  void start(std::span<PointRow> points) const;
  std::span<PointRow> points_of(const ContactRow& row) { return std::span(points_).subspan(row.first, row.count); }
  void kick(std::size_t i);
  void drift(std::size_t i, double time);
  void feel_gravity(std::size_t i);
  void refresh_inertia(std::size_t i);

  Settings settings_;
  Batch batch_;
  double h_ = 0;                                      // s, a sub-step
  double kick_ = 1;                                   // the last kick, as a share of a sub-step
  double bias_rate_ = 0, mass_share_ = 1, give_ = 0;  // of soft constraints
  Array<std::uint32_t> rails_;                        // kinematic bodies that it touches, in rising order: the first
  Array<SolverBody> bodies_;
  Array<SolverPose> poses_;
  struct Motion {
    Vec3 velocity, spin;
  };
  Array<Motion> free_, pushed_;  // of wedged islands: without this sub-step's impulses, and with them
  Array<Vec3> given_before_;     // N s of each of its contacts in this step, before this sub-step
  std::optional<Vec3> ground_;   // m/s of what a wedged island lies on
  Vec3 free_ways_;               // 1 along the directions that none of its bodies has locked, else 0
  bool wedged_ = false;
  Array<ContactRow> contacts_;
  Array<PointRow> points_;
  Array<JointRow> joints_;
  Array<Colour> colours_;
  std::size_t used_colours_ = 0;
  std::atomic<bool> asked_{false};    // is any contact not sure in this sub-step?
  std::atomic<bool> elastic_{false};  // does any rebound at all?
  std::atomic<bool> hit_{false};      // did any in this pass?
  Array<int> hit_in_;                 // by body: the pass in which it last rebounded
  Array<std::uint64_t> taken_;        // colours by body
  struct Pending {
    std::uint32_t a, b, place, colour, pair;
  };
  Array<Pending> pending_contacts_, pending_joints_;
};

}  // namespace jugend::world_state
