// A world as bytes and back. What comes from bytes is checked before it is a world: every place that one array names in
// another is there, rings close, the tree is a tree.
#include <algorithm>
#include <atomic>
#include <jugend/base/bytes.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/overloaded.hpp>
#include <jugend/base/text.hpp>
#include <jugend/world/detail/parts.hpp>
#include <unordered_map>

namespace jugend {

using namespace world_state;

namespace {

constexpr std::string_view what = "world";

[[noreturn]] void refuse(std::string found, std::string wanted) {
  fail({{}, std::string(what), std::move(found), std::move(wanted), {}});
}

std::uint64_t layout() {
  StateHash hash;
  hash.add(layout_of<Body>()), hash.add(layout_of<Pair>()), hash.add(layout_of<Contact>());
  hash.add(layout_of<Joint>()), hash.add(layout_of<Group>()), hash.add(layout_of<Pool>());
  hash.add(layout_of<GravityZone>()), hash.add(layout_of<Bounds>());
  return hash.value();
}

/// Known again by its content where it may be shared, else by its size.
template <class Archive>
void pass_simple(Archive& archive, auto& shape) {
  if constexpr (requires { shape.half_extents; })
    pass(archive, shape.half_extents);
  else if constexpr (requires { shape.radius; })
    pass(archive, shape.radius);
  if constexpr (requires { shape.half_length; }) pass(archive, shape.half_length);
  if constexpr (requires { shape.half_height; }) pass(archive, shape.half_height);
}
template <class Kind>
constexpr bool is_shared = requires(Kind kind) {
  kind.get();
};

void write(ByteWriter& out, const Shape& shape) {
  out.word(shape.index(), 1);
  std::visit(
      [&](const auto& s) {
        if constexpr (is_shared<std::remove_cvref_t<decltype(s)>>)
          out.word(content_of(shape), 8);
        else
          pass_simple(out, s);
      },
      shape);
}

using Known = std::unordered_map<std::uint64_t, Shape>;
template <std::size_t I = 0>
Shape read_shape(ByteReader& in, std::size_t index, const Known& known) {
  if constexpr (I == std::variant_size_v<Shape>) {
    in.fail();
    return {};
  } else {
    using Kind = std::variant_alternative_t<I, Shape>;
    if (index != I) return read_shape<I + 1>(in, index, known);
    if constexpr (is_shared<Kind>) {
      const auto found = known.find(in.word(8));
      if (!in.ok()) return {};
      if (found == known.end() || found->second.index() != I)
        refuse("bytes with a hull, compound, mesh, height field or tiles that are not here",
               "a world of the same data, or the shape among those handed over");
      return found->second;
    } else {
      Kind shape;
      pass_simple(in, shape);
      return shape;
    }
  }
}

/// Is everything where it is said to be?
class Soundness {
 public:
  Soundness(const State& s, std::size_t shapes, std::size_t names) : s_(s), shapes_(shapes), names_(names) {}
  bool holds() const {
    return std::ranges::all_of(s_.bodies, [&](const Body& b) { return body(b); }) && rings_close() &&
           bodies(s_.free_bodies) &&
           s_.tree.sound(s_.bodies.size(),
                         [&](std::size_t i) { return s_.bodies[i].alive ? s_.bodies[i].leaf : none; }) &&
           std::ranges::all_of(s_.pairs, [&](const Pair& p) { return pair(p); }) && places(s_.free_single, 1) &&
           places(s_.free_block, State::most_contacts) &&
           std::ranges::all_of(s_.contacts, [](const Contact& c) { return c.count <= c.points.size(); }) &&
           std::ranges::all_of(s_.joints, [&](const Joint& j) { return joint(j); }) &&
           std::ranges::all_of(s_.free_joints, [&](std::uint32_t i) { return i < s_.joints.size(); });
  }
  /// Who is awake, and who moves by itself.
  bool lists_hold() const {
    const auto all = [&](const Array<std::uint32_t>& list, BodyKind kind) {
      return std::ranges::all_of(list, [&](std::uint32_t i) { return alive(i) && s_.bodies[i].kind == kind; });
    };
    return all(s_.awake, BodyKind::dynamic) && all(s_.kinematic, BodyKind::kinematic);
  }
  bool bodies(const Array<std::uint32_t>& list) const {
    return std::ranges::all_of(list, [&](std::uint32_t i) { return i < s_.bodies.size(); });
  }

 private:
  bool alive(std::uint32_t i) const { return i < s_.bodies.size() && s_.bodies[i].alive; }
  bool body(const Body& b) const {
    if (!b.alive) return true;
    return b.shape < shapes_ && b.name < names_ && b.kind <= BodyKind::proxy && is_finite(b.pose.position) &&
           is_finite(b.centre) && is_finite(b.velocity) && is_finite(b.spin) &&
           (b.solver == 0 || b.awake() || b.kind == BodyKind::kinematic);
  }
  /// Those that sleep follow one another in rings.
  bool rings_close() const {
    std::vector<bool> followed(s_.bodies.size());
    for (const Body& b : s_.bodies) {
      if (!b.alive || b.next_asleep == none) continue;
      if (!alive(b.next_asleep) || s_.bodies[b.next_asleep].next_asleep == none || followed[b.next_asleep])
        return false;
      followed[b.next_asleep] = true;
    }
    return true;
  }
  bool places(const Array<std::uint32_t>& list, std::size_t size) const {
    return std::ranges::all_of(list, [&](std::uint32_t first) { return first + size <= s_.contacts.size(); });
  }
  bool pair(const Pair& p) const {
    return alive(p.a) && alive(p.b) && p.a != p.b && (p.capacity == 1 || p.capacity == State::most_contacts) &&
           p.count <= p.capacity && std::size_t{p.first} + p.capacity <= s_.contacts.size() && p.event == none;
  }
  bool joint(const Joint& j) const {
    if (!j.alive) return true;
    return j.kind <= JointKind::pulley && alive(j.a) && (j.b == none || alive(j.b)) && j.name < names_;
  }
  const State& s_;
  std::size_t shapes_, names_;
};

}  // namespace

/// What bytes hold beside shapes and names.
template <class Archive, class Parts>
void pass_parts(Archive& archive, Parts& parts, auto& zones, auto& next_zone) {
  State::each_but_index(parts.state, [&](auto& item) { pass(archive, item); });
  pass(archive, zones), pass(archive, parts.field.uniform), pass(archive, next_zone);
  pass(archive, parts.pools), pass(archive, parts.newcomers);
  pass(archive, parts.lists_changed), pass(archive, parts.filters_changed), pass(archive, parts.scale);
}

std::vector<std::byte> World::to_bytes() const {
  ByteWriter out;
  out.word(parts_->shapes.all().size(), 8);
  for (const Shape& shape : parts_->shapes.all()) write(out, shape);
  pass(out, parts_->names.all());
  pass_parts(out, std::as_const(*parts_), std::as_const(parts_->field.zones_), std::as_const(parts_->field.next_));
  return sealed(what, layout(), out.bytes());
}

World World::from_bytes(std::span<const std::byte> bytes, std::span<const Shape> more) const {
  ByteReader in(opened(what, layout(), bytes));
  Known known;
  const auto know = [&](const Shape& shape) {
    std::visit(
        [&](const auto& s) {
          if constexpr (is_shared<std::remove_cvref_t<decltype(s)>>)
            if (s.get() != nullptr) known.emplace(content_of(shape), shape);
        },
        shape);
  };
  for (const Shape& shape : parts_->shapes.all()) know(shape);
  for (const Shape& shape : more) know(shape);

  World made(parts_->memory);
  Parts& parts = *made.parts_;
  parts.number = parts_->number, parts.pair_rule = parts_->pair_rule;
  std::vector<Shape> shapes;
  for (std::uint64_t count = in.word(8); in.ok() && count > 0; --count)
    shapes.push_back(read_shape(in, in.word(1), known));
  std::vector<std::string> names;
  pass(in, names);
  pass_parts(in, parts, parts.field.zones_, parts.field.next_);
  in.need(in.left() == 0);
  const Soundness soundness(parts.state, shapes.size(), names.size());
  if (!in.ok() || !soundness.holds() || !soundness.bodies(parts.newcomers) ||
      !(parts.lists_changed || soundness.lists_hold()))
    refuse("bytes that fit together in no world", "bytes as they were written");
  if (parts.scale != parts_->scale)
    refuse(filled("bytes of a world with length_scale {}", parts.scale), filled("{}", parts_->scale));
  made.set_length_scale(parts.scale);
  for (std::uint32_t place = 0; place < parts.state.pairs.size(); ++place) {
    const Pair& pair = parts.state.pairs[place];
    if (parts.state.pair_index.find(pair.a, pair.b) != none)
      refuse("bytes with a pair of bodies twice", "bytes as they were written");
    parts.state.pair_index.set(pair.a, pair.b, place);
  }
  // A version that no world counts up to, and no other bytes have.
  static std::atomic<std::uint64_t> read{1ull << 63};
  const std::uint64_t version = ++read;
  parts.shapes.restore(shapes, version, [&](const auto& retain) {
    for (const Body& body : parts.state.bodies) {
      if (body.alive) retain(body.shape);
    }
  });
  parts.names.restore(names, version, [&](const auto& retain) {
    for (const Body& body : parts.state.bodies) {
      if (body.alive) retain(body.name);
    }
    for (const Joint& joint : parts.state.joints) {
      if (joint.alive) retain(joint.name);
    }
  });
  return made;
}

}  // namespace jugend
