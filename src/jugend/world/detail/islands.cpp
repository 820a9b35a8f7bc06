// Islands found, put into batches and solved.
#include <algorithm>
#include <jugend/world/detail/islands.hpp>

namespace jugend::world_state {
namespace {

constexpr std::uint32_t bodies_in_batch = 96;   // about what a core's own cache holds, with their contacts
constexpr std::uint32_t flying_in_batch = 256;  // bodies that touch nothing
constexpr std::uint32_t large = 600;            // bodies of an island that all threads solve together

bool up(const State& state, std::uint32_t body) { return body != none && state.bodies[body].awake(); }

/// link(kind, place, body, other) for each pair and joint that holds a body which is awake, `other` the second such, or
/// none.
template <class Link>
void each_link(const State& state, std::span<const std::uint32_t> pairs, Link&& link) {
  const auto tell = [&](bool joint, std::uint32_t place, std::uint32_t a, std::uint32_t b) {
    const bool of_a = up(state, a), of_b = up(state, b);
    if (of_a || of_b) link(joint, place, of_a ? a : b, of_a && of_b ? b : none);
  };
  for (const std::uint32_t p : pairs) {
    if (state.pairs[p].rows() > 0) tell(false, p, state.pairs[p].a, state.pairs[p].b);
  }
  for (std::uint32_t j = 0; j < state.joints.size(); ++j) {
    if (state.joints[j].alive) tell(true, j, state.joints[j].a, state.joints[j].b);
  }
}

}  // namespace

void Islands::find(const State& state, std::span<const std::uint32_t> pairs) {
  const std::size_t slots = state.bodies.size();
  sets_.start(slots, state.awake);
  resize_in_room(size_, slots), resize_in_room(links_, slots), resize_in_room(odd_, slots),
      resize_in_room(batch_of_, slots);
  for (const std::uint32_t i : state.awake)
    size_[i] = links_[i] = 0, odd_[i] = state.bodies[i].locks != 0 || state.bodies[i].needle();
  each_link(state, pairs, [&](bool joint, std::uint32_t place, std::uint32_t body, std::uint32_t other) {
    if (other != none) sets_.join(body, other);
    ++links_[body];
    odd_[body] |= !joint && state.pairs[place].deep;
  });
  for (const std::uint32_t i : state.awake) {
    const std::uint32_t root = sets_.root(i);
    ++size_[root];
    if (root != i) links_[root] += links_[i], odd_[root] |= odd_[i];
  }
}

/// Islands in the order of their roots, until a batch is full.
void Islands::make_batches(const State& state) {
  counts_.clear(), batches_.clear();
  std::uint32_t open[2] = {none, none};
  for (const std::uint32_t i : state.awake) {
    if (const std::uint32_t root = sets_.root(i); root != i) {
      batch_of_[i] = batch_of_[root];
      continue;
    }
    const bool flies = links_[i] == 0;
    std::uint32_t own = none, &batch = odd_[i] && !flies ? own : open[flies];
    if (batch == none || counts_[batch].bodies + size_[i] > (flies ? flying_in_batch : bodies_in_batch)) {
      batch = static_cast<std::uint32_t>(counts_.size());
      counts_.emplace_back();
      batches_.push_back({{}, {}, {}, flies});
    }
    batch_of_[i] = batch;
    counts_[batch].bodies += size_[i];
  }
}

void Islands::lay_out(const State& state, std::span<const std::uint32_t> pairs) {
  each_link(state, pairs, [&](bool joint, std::uint32_t, std::uint32_t body, std::uint32_t) {
    Counts& count = counts_[batch_of_[body]];
    ++(joint ? count.joints : count.pairs);
  });
  Counts sum;
  for (Counts& count : counts_) {
    const Counts first = sum;
    sum.bodies += count.bodies, sum.pairs += count.pairs, sum.joints += count.joints;
    count = first;
  }
  resize_in_room(bodies_, sum.bodies), resize_in_room(pairs_, sum.pairs), resize_in_room(joints_, sum.joints);
  Array<Counts>& next = counts_;
  for (const std::uint32_t i : state.awake) bodies_[next[batch_of_[i]].bodies++] = i;
  each_link(state, pairs, [&](bool joint, std::uint32_t place, std::uint32_t body, std::uint32_t) {
    Counts& at = next[batch_of_[body]];
    (joint ? joints_[at.joints++] : pairs_[at.pairs++]) = place;
  });
  // Each has come to its end, which is where the next one begins.
  Counts first;
  for (std::size_t k = 0; k < batches_.size(); ++k) {
    const Counts& end = next[k];
    const auto part = [](const Array<std::uint32_t>& all, std::uint32_t from, std::uint32_t to) {
      return std::span(all).subspan(from, to - from);
    };
    batches_[k].bodies = part(bodies_, first.bodies, end.bodies);
    batches_[k].pairs = part(pairs_, first.pairs, end.pairs);
    batches_[k].joints = part(joints_, first.joints, end.joints);
    first = end;
  }
}

Solver& Islands::take_solver() {
  const std::scoped_lock lock(mutex_);
  Solver& solver = *idle_.back();
  idle_.pop_back();
  return solver;
}

void Islands::give_back(Solver& solver) {
  const std::scoped_lock lock(mutex_);
  idle_.push_back(&solver);
}

void Islands::make_solvers(int threads) {
  const MemoryScope scope(bodies_.get_allocator().memory);
  while (solvers_.size() < static_cast<std::size_t>(threads)) {
    solvers_.push_back(std::make_unique<Solver>());
    idle_.push_back(solvers_.back().get());
  }
  for (const auto& solver : solvers_) solver->reserve(room_.bodies, room_.contacts, room_.joints);
}

void Islands::reserve(std::size_t bodies, std::size_t pairs, std::size_t joints, int threads) {
  sets_.reserve(bodies);
  for (Array<std::uint32_t>* of_each : {&size_, &links_, &batch_of_, &bodies_}) make_room(*of_each, bodies);
  make_room(odd_, bodies), make_room(pairs_, pairs), make_room(joints_, joints);
  make_room(counts_, bodies), make_room(batches_, bodies);
  room_ = {bodies + pairs + joints, pairs, joints};  // each link may bring a rail
  make_solvers(threads);
}

/// Each has memory for the largest batch: which of them gets it is chance.
void Islands::make_room_for_batches(const State& state) {
  auto [bodies, contacts, joints] = room_;
  points_ = 0;
  for (const Batch& batch : batches_) {
    std::size_t rows = 0;
    for (const std::uint32_t p : batch.pairs) rows += state.pairs[p].rows();
    points_ += Solver::points_a_row * rows;
    bodies = std::max(bodies, batch.bodies.size() + batch.pairs.size() + batch.joints.size());
    contacts = std::max(contacts, rows), joints = std::max(joints, batch.joints.size());
  }
  for (const auto& solver : solvers_) solver->reserve(bodies, contacts, joints);
}

void Islands::run(State& state, const Workers& workers, const Solver::Settings& settings,
                  std::span<const std::uint32_t> pairs) {
  find(state, pairs);
  make_batches(state);
  lay_out(state, pairs);
  if (solvers_.size() < static_cast<std::size_t>(workers.threads())) make_solvers(workers.threads());
  make_room_for_batches(state);
  const auto solve = [&](const Batch& batch, const Workers& with) {
    Solver& solver = take_solver();
    solver.run(state, with, settings, batch);
    give_back(solver);
  };
  const auto is_large = [](const Batch& batch) { return !batch.flies && batch.bodies.size() >= large; };
  for (const Batch& batch : batches_) {
    if (is_large(batch)) solve(batch, workers);
  }
  workers.over(batches_.size(), 1, [&](std::size_t first, std::size_t) {
    if (!is_large(batches_[first])) solve(batches_[first], {});
  });
  for (const std::uint32_t i : state.kinematic) {
    Body& body = state.bodies[i];
    body.pose = advanced(body.pose, body.velocity, body.spin, settings.dt);
    body.centre = body.pose.position;
  }
}

}  // namespace jugend::world_state
