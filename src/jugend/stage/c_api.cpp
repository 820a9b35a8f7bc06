// jugend.h: a stage in plain C. Fields of controls and states are found by the names that they are listed under.
#include <jugend/stage/jugend.h>

#include <charconv>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/stage/kinds.hpp>

struct jugend_stage {
  jugend::Stage stage;
};

namespace jugend {
namespace {

thread_local std::string last_error;

/// 0, or -1 with the error kept.
template <class Do>
int tried(Do&& act) {
#ifdef __cpp_exceptions
  try {
    act();
    return 0;
  } catch (const std::exception& error) {
    last_error = error.what();
    return -1;
  }
#else
  act();
  return 0;
#endif
}

Vec3 vec(const double* v) { return v != nullptr ? Vec3{v[0], v[1], v[2]} : Vec3{}; }
Pose pose_of(const double* p) { return {{p[0], p[1], p[2]}, {p[3], p[4], p[5], p[6]}}; }
void put(const Vec3& v, double* to) { to[0] = v.x, to[1] = v.y, to[2] = v.z; }
BodyId body_id(const jugend_id* id) { return id != nullptr ? BodyId{id->index, id->generation} : BodyId{}; }
ActorId actor_id(const jugend_id& id) { return {id.index, id.generation}; }

/// Calls act(numbers, count) of the field that `path` names, dot by dot; false where there is none.
template <class T, class Act>
bool at_path(T& value, std::string_view path, Act&& act) {
  using Plain = std::remove_const_t<T>;
  const std::size_t dot = path.find('.');
  const std::string_view first = path.substr(0, dot), rest = dot < path.size() ? path.substr(dot + 1) : "";
  if constexpr (std::is_same_v<Plain, Vec3>) {
    return path.empty() && (act(&value.x, 3), true);
  } else if constexpr (std::is_arithmetic_v<Plain> || std::is_enum_v<Plain> || std::is_same_v<Plain, PressLatch>) {
    return path.empty() && (act(&value, 1), true);
  } else if constexpr (Described<Plain>) {
    bool found = false;
    for_each_field(value, [&](const char* name, auto& member) {
      if (!found && name == first) found = at_path(member, rest, act);
    });
    return found;
  } else if constexpr (requires { value.size(), value[0]; }) {
    std::size_t index = 0;
    const auto [end, wrong] = std::from_chars(first.data(), first.data() + first.size(), index);
    const bool fits = wrong == std::errc{} && end == first.data() + first.size() && index < value.size();
    return fits && at_path(value[index], rest, act);
  } else {
    return false;
  }
}

[[noreturn]] void refuse_field(const Actor& actor, std::string_view field) {
  fail({{},
        std::string(field),
        filled("no such field of '{}'", actor.name()),
        filled("a field of the controls of kind {}, or after state. one of its state", actor.kind()),
        {}});
}

void need_count(std::string_view field, std::size_t found, std::size_t wanted) {
  if (found != wanted) fail({{}, std::string(field), filled("{} numbers", found), filled("{}", wanted), {}});
}

/// What differs from kind to kind: its controller, and how it is made.
template <class K>
struct KindInC {
  using Controller = typename K::Controller;
  static ActorId add(Stage& stage, std::string name, BodyId body, const Vec3& at) {
    if constexpr (std::is_same_v<Controller, Walker>)
      return stage.add(std::move(name), Walker({}, at));
    else if constexpr (std::is_same_v<Controller, ForcedWalker>)
      return add_forced(stage, std::move(name), {}, {}, at);
    else if constexpr (std::is_same_v<Controller, Roller>)
      return add_roller(stage, std::move(name), {}, body);
    else if constexpr (std::is_same_v<Controller, LedBody>)
      return add_led_body(stage, std::move(name), {}, body);
    else if constexpr (std::is_same_v<Controller, Vehicle>)
      return add_vehicle(stage, std::move(name), {}, body);
    else if constexpr (std::is_same_v<Controller, TrackedVehicle>)
      return add_tracked_vehicle(stage, std::move(name), {}, body);
    else if constexpr (std::is_same_v<Controller, Multirotor>)
      return add_multirotor(stage, std::move(name), {}, body);
    else
      return add_boat(stage, std::move(name), {}, body);
  }
  static void tune(Stage& stage, ActorId id, std::string_view key, std::string_view value) {
    const auto& controller = stage.actor(id).as<Controller>();
    auto tuning = [&] {
      if constexpr (requires { controller.whole_tuning(); })
        return controller.whole_tuning();
      else
        return controller.tuning();
    }();
    const Tunables& list = TunablesOf<decltype(tuning)>::list();
    const auto found = find_tunable(list, &tuning, key);
    if (!found)
      fail({{},
            std::string(key),
            "a key that is not known",
            "a tunable, as listed by: jugend params",
            nearest_name(key, keys(list, &tuning))});
    found->write(found->tunable->parse(value));
    stage.set_tuning(id, tuning);
  }
};

/// act(KindInC<K>) of the first kind for which `is` holds; false where it holds for none.
template <class Is, class Act>
bool for_kind(Is&& is, Act&& act) {
  const auto try_all = [&]<class... K>(std::type_identity<K>...) {
    return ((is(KindInC<K>{}, K::name) && (act(KindInC<K>{}), true)) || ...);
  };
  using std::type_identity;
  return try_all(type_identity<WalkerKind>{}, type_identity<ForcedWalkerKind>{}, type_identity<RollerKind>{},
                 type_identity<LedBodyKind>{}, type_identity<VehicleKind>{}, type_identity<TrackedVehicleKind>{},
                 type_identity<MultirotorKind>{}, type_identity<BoatKind>{});
}

/// The field of an actor's controls or state, as at_path() gives it.
template <class AnyActor, class Act>
void at_field(AnyActor& actor, std::string_view field, bool state_too, Act&& act) {
  bool found = false;
  for_kind([&](auto, std::string_view name) { return actor.kind() == name; },
           [&]<class K>(KindInC<K>) {
             if (field.starts_with("state.")) {
               const auto& state = actor.template as<typename K::Controller>().state();
               if (state_too) found = at_path(state, field.substr(6), act);
             } else {
               found = at_path(actor.template as<typename K::Controls>(), field, act);
             }
           });
  if (!found) refuse_field(actor, field);
}

void add_body(jugend_stage* on, const Shape& shape, const double* pose, double mass, jugend_id* id) {
  const BodyKind kind = mass > 0 ? BodyKind::dynamic : BodyKind::fixed;
  const BodyId made = on->stage.world.add({.shape = shape, .pose = pose_of(pose), .kind = kind, .mass = mass});
  if (id != nullptr) *id = {made.index, made.generation};
}

}  // namespace
}  // namespace jugend

using namespace jugend;

const char* jugend_error(void) { return last_error.c_str(); }

jugend_stage* jugend_stage_new(void) {
  jugend_stage* made = nullptr;
  tried([&] { made = new jugend_stage; });
  return made;
}
void jugend_stage_free(jugend_stage* stage) { delete stage; }

int jugend_set_gravity(jugend_stage* on, const double gravity[3]) {
  return tried([&] { on->stage.world.set_gravity(vec(gravity)); });
}

int jugend_add_box(jugend_stage* on, const double half_extents[3], const double pose[7], double mass, jugend_id* id) {
  return tried([&] { add_body(on, Box{vec(half_extents)}, pose, mass, id); });
}
int jugend_add_ball(jugend_stage* on, double radius, const double pose[7], double mass, jugend_id* id) {
  return tried([&] { add_body(on, Sphere{radius}, pose, mass, id); });
}
int jugend_add_capsule(jugend_stage* on, double radius, double half_length, const double pose[7], double mass,
                       jugend_id* id) {
  return tried([&] { add_body(on, Capsule{radius, half_length}, pose, mass, id); });
}
int jugend_add_pool(jugend_stage* on, const double half_extents[3], const double pose[7]) {
  return tried([&] { on->stage.world.add_pool({.half_extents = vec(half_extents), .pose = pose_of(pose)}); });
}
int jugend_body_pose(const jugend_stage* on, jugend_id body, double pose[7]) {
  return tried([&] {
    const Pose there = on->stage.world.pose(body_id(&body));
    put(there.position, pose);
    pose[3] = there.orientation.w, pose[4] = there.orientation.x;
    pose[5] = there.orientation.y, pose[6] = there.orientation.z;
  });
}
int jugend_push(jugend_stage* on, jugend_id body, const double impulse[3], const double at[3]) {
  return tried([&] { on->stage.world.push(body_id(&body), vec(impulse), vec(at)); });
}
int jugend_remove_body(jugend_stage* on, jugend_id body) {
  return tried([&] {
    if (!on->stage.world.remove(body_id(&body))) fail({{}, "body", "one that is gone", "a body that is there", {}});
  });
}

int jugend_add_actor(jugend_stage* on, const char* kind, const char* name, const jugend_id* body, const double at[3],
                     jugend_id* id) {
  return tried([&] {
    ActorId made;
    std::vector<std::string> names;
    const std::string_view wanted = kind != nullptr ? kind : "";
    const auto is = [&](auto, std::string_view known) { return names.emplace_back(known), known == wanted; };
    if (!for_kind(is,
                  [&](auto of) { made = of.add(on->stage, name != nullptr ? name : "", body_id(body), vec(at)); })) {
      std::string allowed;
      for (const std::string& known : names) allowed.append(allowed.empty() ? "" : ", ").append(known);
      fail({{}, "kind", filled("'{}'", wanted), allowed, nearest_name(wanted, names)});
    }
    if (id != nullptr) *id = {made.index, made.generation};
  });
}
int jugend_remove_actor(jugend_stage* on, jugend_id actor) {
  return tried([&] {
    if (!on->stage.remove(actor_id(actor))) fail({{}, "actor", "one that is gone", "an actor that is there", {}});
  });
}
int jugend_tune(jugend_stage* on, jugend_id actor, const char* key, const char* value) {
  return tried([&] {
    const std::string_view kind = on->stage.actor(actor_id(actor)).kind();
    for_kind([&](auto, std::string_view known) { return known == kind; },
             [&](auto of) { of.tune(on->stage, actor_id(actor), key, value); });
  });
}
int jugend_set(jugend_stage* on, jugend_id actor, const char* field, const double* values, size_t count) {
  return tried([&] {
    at_field(on->stage.actor(actor_id(actor)), field, false, [&]<class T>(T* member, std::size_t wanted) {
      need_count(field, count, wanted);
      if constexpr (!std::is_const_v<T>) {
        for (std::size_t i = 0; i < wanted; ++i) {
          if constexpr (std::is_same_v<T, PressLatch>)
            member[i].set(values[i] != 0);
          else if (const double value = is_finite(values[i]) ? values[i] : 0; std::is_floating_point_v<T>)
            member[i] = static_cast<T>(value);
          else  // a choice or a count: kept within what fits
            member[i] = static_cast<T>(static_cast<int>(value < 0 ? 0 : value > 255 ? 255 : value));
        }
      }
    });
  });
}
int jugend_get(const jugend_stage* on, jugend_id actor, const char* field, double* values, size_t count) {
  return tried([&] {
    at_field(on->stage.actor(actor_id(actor)), field, true, [&]<class T>(T* member, std::size_t wanted) {
      need_count(field, count, wanted);
      for (std::size_t i = 0; i < wanted; ++i) {
        if constexpr (std::is_same_v<std::remove_const_t<T>, PressLatch>)
          values[i] = PressLatch(member[i]).take().held ? 1 : 0;
        else
          values[i] = static_cast<double>(member[i]);
      }
    });
  });
}
int jugend_get_facts(const jugend_stage* on, jugend_id actor, jugend_facts* facts) {
  return tried([&] {
    const ActorFacts known = on->stage.facts(actor_id(actor));
    put(known.position, facts->position), put(known.velocity, facts->velocity);
    put(known.facing, facts->facing), put(known.up, facts->up);
    facts->mode = name_of(known.mode), facts->on_ground = known.on_ground ? 1 : 0;
  });
}
int jugend_hit(jugend_stage* on, jugend_id actor, const double away[3], double distance) {
  return tried(
      [&] { on->stage.actor(actor_id(actor)).hit({.away = vec(away), .distance = distance}, on->stage.world); });
}

int jugend_tick(jugend_stage* on, double dt) {
  return tried([&] { on->stage.tick(dt); });
}
int jugend_events(const jugend_stage* on, jugend_id actor, jugend_event* events, size_t room) {
  int there = 0;
  const int answer = tried([&] {
    for (const ActorEvent& e : on->stage.actor(actor_id(actor)).heard()) {
      if (static_cast<std::size_t>(there) < room) {
        jugend_event& told = events[there];
        told.kind = name_of(e.kind), told.time = e.time, told.value = e.value;
        put(e.position, told.position);
      }
      ++there;
    }
  });
  return answer == 0 ? there : answer;
}
int jugend_drawn_position(const jugend_stage* on, jugend_id actor, double fraction, double position[3]) {
  return tried([&] { put(on->stage.drawn_position(actor_id(actor), fraction), position); });
}

size_t jugend_save(const jugend_stage* on, void* bytes, size_t room) {
  std::size_t size = 0;
  tried([&] {
    const std::vector<std::byte> all = on->stage.to_bytes();
    size = all.size();
    if (size <= room) std::memcpy(bytes, all.data(), size);
  });
  return size;
}
int jugend_restore(jugend_stage* on, const void* bytes, size_t size) {
  return tried([&] {
    Stage& stage = on->stage;
    stage.restore(stage.from_bytes({static_cast<const std::byte*>(bytes), size}));
  });
}
uint64_t jugend_hash(const jugend_stage* on) { return on->stage.hash(); }
