// Contacts of bodies that can hardly give way, since directions are locked, of needles, and of what lies deep in
// something: they are not thrown. Inner to the solver.
//
// A small turn of the normal would make any speed of a push across what is locked, and a small turn of a needle any
// spin of two pushes that balanced. So a sub-step's impulses give such bodies no energy, as seen from what they touch,
// but what parts them at push_speed or carries them with a belt. What is more is taken back.
#pragma once

#include <jugend/world/detail/pair_velocities.hpp>

namespace jugend::world_state {

/// A row without its impulses of this sub-step, and what it becomes by them.
class Solver::Jam {
 public:
  Jam(Solver& solver, ContactRow& contact, Phase of);
  /// After it was solved.
  void hold_back();

 private:
  Solver& s;
  ContactRow& row;
  Phase phase;
  Vec3 va, wa, vb, wb;
  Vec3 frame_velocity, frame_spin;  // of what moves by no force, where the other's centre is; else of both together
  double energy = 0, allowed = 0;

  double energy_of(const PairVelocities& duo) const;
};

}  // namespace jugend::world_state
