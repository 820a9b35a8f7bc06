// Memory for a world's arrays, taken before it is needed.
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/world/detail/parts.hpp>

namespace jugend {

using namespace world_state;

void World::reserve(const WorldRoom& room) {
  constexpr std::size_t most = 100'000'000;
  for (const std::size_t count : {room.bodies, room.pairs, room.joints})
    if (count > most) fail({{}, "room", filled("{}", count), filled("at most {}", most), {}});
  const auto [bodies, pairs, joints] = room;
  Parts& p = *parts_;
  State& s = p.state;
  make_room(s.bodies, bodies), make_room(s.joints, joints), make_room(s.free_joints, joints);
  for (Array<std::uint32_t>* of_each : {&s.free_bodies, &s.awake, &s.kinematic, &p.moved, &p.lost, &p.newcomers})
    make_room(*of_each, bodies);
  for (Array<std::uint8_t>* of_each : {&p.outgrown, &p.stirring, &p.hit}) make_room(*of_each, bodies);
  make_room(p.needed, bodies), make_room(p.water, bodies), make_room(p.neighbours, bodies), make_room(p.struck, bodies);
  make_room(p.first_of_body, bodies + 1), make_room(p.next_pair, bodies + 1);
  s.tree.reserve(bodies), p.resting.reserve(bodies);
  for (Array<std::uint32_t>* of_each : {&s.free_single, &s.free_block, &p.active}) make_room(*of_each, pairs);
  make_room(s.pairs, pairs), make_room(s.contacts, pairs), make_room(p.found, pairs);
  make_room(p.pairs_of_body, 2 * pairs), make_room(p.events, 2 * pairs);
  s.pair_index.reserve(pairs), make_room(p.broken, joints);
  make_room(p.found_by_piece, bodies / piece + 1);
  while (p.found_by_piece.size() <= bodies / piece) p.add_piece();
  p.islands.reserve(bodies, pairs, joints, p.workers.threads());
}

}  // namespace jugend
