#include <fmt/format.h>

#include <algorithm>
#include <jugend/base/input_file.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/units.hpp>
#include <jugend/lab/detail/level_shapes.hpp>
#include <jugend/lab/document.hpp>
#include <jugend/lab/level.hpp>
#include <jugend/shape/mass.hpp>
#include <map>
#include <set>
#include <unordered_map>

namespace jugend {
namespace {

struct LevelReader {
  std::filesystem::path folder;
  std::size_t most_bodies;
  Level level{};
  LevelShapes shapes{};
  std::unordered_map<std::string, std::size_t> named{};  // bodies, by the first of that name
  std::map<std::string, Surface> surfaces{};

  void read_surface(TableReader reader) {
    Surface surface;
    const std::string name = reader.required("name", reader.text("name"), "a text");
    if (surfaces.contains(name)) reader.refuse("name", fmt::format("'{}' a second time", name), "each name once");
    if (name.size() > SurfaceName::most) {
      reader.refuse("name", fmt::format("{} characters", name.size()), fmt::format("at most {}", SurfaceName::most));
    }
    surface.name = SurfaceName(name);
    surface.friction = reader.number("friction", {0, 100}).value_or(surface.friction);
    surface.restitution = reader.number("restitution", {0, 1}).value_or(surface.restitution);
    surface.grip = reader.number("grip", {0, 1}).value_or(surface.grip);
    surface.rolling_resistance = reader.number("rolling_resistance", {0, 1000, "m"}).value_or(0);
    surface.spinning_resistance = reader.number("spinning_resistance", {0, 1000, "m"}).value_or(0);
    surface.speed = reader.number("speed", {0, 100}).value_or(1);
    surface.jump = reader.number("jump", {0, 100}).value_or(1);
    surface.belt = reader.vec3("belt", {-1000, 1000, "m/s"}).value_or(Vec3{});
    reader.finish();
    surfaces[name] = surface;
  }

  void read_body(TableReader reader) {
    BodyPlan plan;
    plan.name = reader.name("name").value_or("");
    if (!plan.name.empty() && named.contains(plan.name))
      reader.refuse("name", fmt::format("'{}' a second time", plan.name), "each name once");
    const std::string kind = reader.text("kind").value_or("static");
    plan.kind = static_cast<BodyKind>(reader.choice("kind", kind, {"static", "kinematic", "dynamic"}));
    read_pose(reader, plan.pose);
    plan.velocity = reader.vec3("velocity", {-1000, 1000, "m/s"}).value_or(Vec3{});
    plan.spin = reader.vec3("spin_deg", {-36000, 36000, "deg/s"}).value_or(Vec3{}) * radians_per_degree;
    if (plan.kind == BodyKind::fixed && plan.velocity != Vec3{})
      reader.refuse("velocity", "one of a static body", "kind = \"kinematic\" or \"dynamic\", or no velocity");
    if (plan.kind == BodyKind::fixed && plan.spin != Vec3{})
      reader.refuse("spin_deg", "one of a static body", "kind = \"kinematic\" or \"dynamic\", or no spin");
    read_matter(reader, plan);
    if (const auto passed_along = reader.vec3("one_way", {-1, 1})) {
      if (!(norm(*passed_along) > 0))
        reader.refuse("one_way", "no direction", "the side from which it is solid, as in [0, 1, 0]");
      plan.one_way = normalised(*passed_along);
    }
    plan.sensor = reader.truth("sensor").value_or(false);
    read_surface_of(reader, plan);
    if (reader.truth("danger").value_or(false)) plan.layers |= level_layer::danger;
    if (reader.truth("stompable").value_or(false)) plan.layers |= level_layer::stompable;
    const ShapePlan shape = read_level_shape(reader, folder);
    if (const DocValue* path = reader.table("path")) {
      if (plan.kind != BodyKind::kinematic)
        reader.refuse("path", "one of a body of kind " + kind, "kind = \"kinematic\" beside it");
      level.rails.push_back(
          {level.bodies.size(), read_path(TableReader(*path, reader.file(), reader.path_of("path.")))});
    }
    reader.finish();
    need_room(reader, "shape", 1);
    plan.shape = shapes.make(reader, shape);
    check_solid(reader, plan);
    if (const auto* grid = std::get_if<TileGridRef>(&plan.shape)) {
      for (const auto& m : (*grid)->markers())
        add_marker(reader, "file", std::string(1, m.name), to_world(plan.pose, m.position));
    }
    add_body(std::move(plan));
  }

  void add_body(BodyPlan plan) {
    named.emplace(plan.name, level.bodies.size());
    level.bodies.push_back(std::move(plan));
  }
  /// Before they are made: may there be so many more?
  void need_room(const TableReader& reader, const std::string& key, double more) const {
    const double all = static_cast<double>(level.bodies.size()) + more;
    if (all > static_cast<double>(most_bodies))
      reader.refuse(key, fmt::format("{} bodies in all", as_text(all)),
                    fmt::format("at most {}; --most-bodies allows more", most_bodies));
  }

  /// Points from the body's place on, and the timetable along them.
  static RailMotion read_path(TableReader reader) {
    const std::vector<Vec3> points = reader.places("points");
    const bool smooth = reader.truth("smooth").value_or(false), closed = reader.truth("closed").value_or(false);
    RailMotionTuning t;
    const auto speed = reader.number("speed", {1e-3, 1000, "m/s"});
    t.duration = reader.number("duration_s", {1e-3, 86400, "s"}).value_or(0);
    if (speed && t.duration > 0) reader.refuse("speed", "a duration_s beside it", "one of the two");
    t.speed = speed.value_or(t.speed);
    t.run = static_cast<RailMotionRun>(
        reader.choice("run", reader.text("run").value_or("there_and_back"), {"once", "loop", "there_and_back"}));
    t.ease = reader.number("ease", {0, 1}).value_or(t.ease);
    t.dwell = reader.number("dwell_s", {0, 86400, "s"}).value_or(0);
    t.every_point = reader.truth("every_point").value_or(false);
    t.phase = reader.number("phase_s", {-86400, 86400, "s"}).value_or(0);
    t.turn_along = reader.truth("turn_along").value_or(false);
    t.turn_blend = reader.number("turn_blend", {0, 1000, "m"}).value_or(t.turn_blend);
    t.turn_rate = reader.number("turn_rate_deg", {-5000, 5000, "deg/s"}).value_or(0) * radians_per_degree;
    reader.finish();
    try {
      return RailMotion(Path(points, smooth, closed), t);
    } catch (const InputError& error) {
      reader.rethrow_at("points", error);
    }
  }

  static void read_pose(TableReader& reader, Pose& pose) {
    pose.position = reader.vec3("position", place_limits).value_or(Vec3{});
    if (const auto turn = reader.vec3("turn_deg", {-360, 360, "deg"})) {
      const Vec3 r = *turn * radians_per_degree;
      pose.orientation = normalised(rotation({0, 0, r.z}) * rotation({0, r.y, 0}) * rotation({r.x, 0, 0}));
    }
  }

  static void check_solid(const TableReader& reader, const BodyPlan& plan) {
    if (plan.kind == BodyKind::dynamic && !mass_properties(plan.shape, 1))
      reader.refuse("shape", "one without volume for a dynamic body", "box, sphere, capsule, cylinder or hull");
  }

  /// What makes a dynamic body heavy, slow and bound.
  static void read_matter(TableReader& reader, BodyPlan& plan) {
    plan.mass = reader.number("mass", {1e-6, 1e9, "kg"}).value_or(0);
    plan.density = reader.number("density", {1e-3, 1e6, "kg/m3"}).value_or(plan.density);
    plan.linear_damping = reader.number("linear_damping", {0, 1000, "1/s"}).value_or(0);
    plan.angular_damping = reader.number("angular_damping", {0, 1000, "1/s"}).value_or(0);
    plan.gravity_scale = reader.number("gravity_scale", {-1000, 1000}).value_or(1);
    plan.water_drag = reader.number("water_drag", {0, 1000}).value_or(1);
    plan.group = static_cast<std::uint32_t>(reader.number("group", {0, 1e6}).value_or(0));
    static const std::vector<std::string> names{"none", "planar", "upright", "turn"};
    static constexpr std::uint8_t bits[] = {0, lock::planar, lock::upright, lock::turn};
    plan.locks = bits[reader.choice("locks", reader.text("locks").value_or("none"), names)];
  }

  void read_surface_of(TableReader& reader, BodyPlan& plan) {
    if (const auto name = reader.text("surface")) {
      std::vector<std::string> names;
      for (const auto& [known, surface] : surfaces) names.push_back(known);
      reader.choice("surface", *name, names);
      plan.surface = surfaces[*name];
    }
  }

  /// Boxes on top of one another, in a column or a pyramid across x. `position` is the middle of its foot.
  void read_stack(TableReader reader) {
    BodyPlan plan;
    plan.kind = BodyKind::dynamic;
    const std::string name = reader.required("name", reader.name("name"), "a text");
    const Vec3 size = reader.required("size", reader.vec3("size", size_limits), "three lengths");
    const auto count = static_cast<int>(reader.required("count", reader.number("count", {1, 200}), "how many high"));
    const bool pyramid =
        reader.choice("pattern", reader.text("pattern").value_or("column"), {"column", "pyramid"}) == 1;
    const double gap = reader.number("gap", {0, level_far, "m"}).value_or(0.05 * size.x);
    Pose foot;
    read_pose(reader, foot);
    read_matter(reader, plan);
    read_surface_of(reader, plan);
    plan.shape = Box{size * 0.5};
    reader.finish();
    need_room(reader, "count", pyramid ? 0.5 * count * (count + 1) : count);
    int number = 0;
    for (int row = 0; row < count; ++row) {
      const int across = pyramid ? count - row : 1;
      for (int i = 0; i < across; ++i) {
        plan.name = fmt::format("{}_{}", name, ++number);
        plan.pose = to_world(foot, Pose{{(i - 0.5 * (across - 1)) * (size.x + gap), (row + 0.5) * size.y, 0}, {}});
        add_body(plan);
      }
    }
  }

  std::size_t body_named(const TableReader& reader, const std::string& key, const std::string& name) const {
    if (const auto known = named.find(name); known != named.end()) return known->second;
    std::vector<std::string> names;
    for (const BodyPlan& b : level.bodies) names.push_back(b.name);
    return reader.choice(key, name, names);
  }

  void read_joint(TableReader reader) {
    LevelJoint joint;
    JointPlan& plan = joint.plan;
    static const std::vector<std::string> kinds{"ball", "hinge", "slider", "fixed", "distance", "pulley"};
    plan.kind = static_cast<JointKind>(reader.choice(
        "kind", reader.required("kind", reader.text("kind"), "ball, hinge, slider, fixed, distance or pulley"), kinds));
    const double unit = plan.kind == JointKind::hinge ? radians_per_degree : 1;
    const char* suffix = plan.kind == JointKind::hinge ? "_deg" : "";
    plan.name = reader.text("name").value_or("");
    joint.a = body_named(reader, "a", reader.required("a", reader.text("a"), "a body's name"));
    if (const auto b = reader.text("b")) joint.b = body_named(reader, "b", *b);
    plan.at = reader.required("at", reader.vec3("at", place_limits), "three lengths");
    plan.at_b = reader.vec3("at_b", place_limits).value_or(plan.at);
    if (plan.kind == JointKind::pulley) {
      plan.over_a = reader.required("over_a", reader.vec3("over_a", place_limits), "three lengths");
      plan.over_b = reader.required("over_b", reader.vec3("over_b", place_limits), "three lengths");
      plan.ratio = reader.number("ratio", {1e-3, 1e3}).value_or(1);
    }
    plan.axis = reader.vec3("axis", {-1, 1}).value_or(plan.axis);
    const auto angle_or_way = [&](const char* key, double otherwise) {
      const auto value = reader.number(key + std::string(suffix), {-1e6, 1e6});
      return value ? *value * unit : otherwise;
    };
    plan.low = angle_or_way("low", plan.low), plan.high = angle_or_way("high", plan.high);
    plan.motor_speed = angle_or_way("motor_speed", 0), plan.rest = angle_or_way("rest", 0);
    if (const auto cone = reader.number("cone_deg", {1e-3, 180, "deg"})) plan.cone = *cone * radians_per_degree;
    plan.motor_limit = reader.number("motor_limit", {0, 1e9}).value_or(0);
    plan.stiffness = reader.number("stiffness", {0, 1e12}).value_or(0);
    plan.damping = reader.number("damping", {0, 1e12}).value_or(0);
    plan.break_force = reader.number("break_force", {1e-9, 1e12, "N"}).value_or(plan.break_force);
    plan.collide = reader.truth("collide").value_or(false);
    reader.finish();
    joint.place = reader.place_of("kind"), joint.key = reader.path_of("");
    level.joints.push_back(std::move(joint));
  }

  /// Bodies again, with the joints between them, `step` further each time and in a group of their own.
  void read_copies(TableReader reader) {
    const DocValue* list = reader.find("of");
    if (list == nullptr || list->kind != DocValue::Kind::list || list->items.empty())
      reader.refuse("of", "nothing", "a list of bodies' names");
    std::vector<std::size_t> originals;
    std::set<std::size_t> seen;
    for (const DocValue& item : list->items) {
      if (item.kind != DocValue::Kind::text) reader.refuse("of", item.shown(), "a list of bodies' names");
      originals.push_back(body_named(reader, "of", item.text));
      if (!seen.insert(originals.back()).second)
        reader.refuse("of", fmt::format("'{}' a second time", item.text), "each name once");
    }
    const auto count = reader.required("count", reader.whole("count", {1, 1000}), "how many more");
    const Vec3 step = reader.required("step", reader.vec3("step", place_limits), "three lengths");
    const double turn = reader.number("turn_deg", {-360, 360, "deg"}).value_or(0) * radians_per_degree;
    reader.finish();
    need_room(reader, "count", static_cast<double>(count) * static_cast<double>(originals.size()));
    const Vec3 pivot = level.bodies[originals.front()].pose.position;
    const std::size_t joints = level.joints.size();
    for (int n = 1; n <= count; ++n) {
      const Pose moved{step * static_cast<double>(n), rotation({0, turn * n, 0})};
      const auto carried = [&](const Vec3& p) { return pivot + to_world(moved, p - pivot); };
      std::map<std::size_t, std::size_t> copy_of;
      for (const std::size_t i : originals) {
        BodyPlan plan = level.bodies[i];
        if (plan.group != 0) plan.group += static_cast<std::uint32_t>(n);
        plan.name += fmt::format("_{}", n + 1);
        plan.pose = {carried(plan.pose.position), moved.orientation * plan.pose.orientation};
        copy_of[i] = level.bodies.size();
        add_body(std::move(plan));
      }
      for (std::size_t j = 0; j < joints; ++j) {
        LevelJoint joint = level.joints[j];
        if (!copy_of.contains(joint.a) || (joint.b && !copy_of.contains(*joint.b))) continue;
        joint.a = copy_of[joint.a];
        if (joint.b) joint.b = copy_of[*joint.b];
        for (Vec3* place : {&joint.plan.at, &joint.plan.at_b, &joint.plan.over_a, &joint.plan.over_b})
          *place = carried(*place);
        joint.plan.axis = rotate(moved.orientation, joint.plan.axis);
        level.joints.push_back(joint);
      }
    }
  }

  void read_zone(TableReader reader) {
    GravityZone zone;
    zone.form = static_cast<GravityZone::Form>(
        reader.choice("form", reader.text("form").value_or("box"), {"box", "ball", "capsule"}));
    if (zone.form == GravityZone::Form::box) {
      zone.size = reader.required("size", reader.vec3("size", size_limits), "three lengths") * 0.5;
    } else {
      zone.size.x = reader.required("radius", reader.number("radius", size_limits), "a length");
      if (zone.form == GravityZone::Form::capsule)
        zone.size.y =
            reader.required("height", reader.number("height", {2 * zone.size.x, level_far, "m"}), "a length") / 2 -
            zone.size.x;
    }
    read_pose(reader, zone.pose);
    static const std::vector<std::string> effects{"replace", "scale", "add", "towards_centre", "towards_axis"};
    zone.effect = static_cast<ZoneEffect>(reader.choice(
        "effect",
        reader.required("effect", reader.text("effect"), "replace, scale, add, towards_centre or towards_axis"),
        effects));
    zone.vector = reader.vec3("vector", {-1000, 1000, "m/s2"}).value_or(Vec3{});
    zone.strength = reader.number("strength", {-1000, 1000}).value_or(1);
    zone.reference = reader.number("reference", size_limits).value_or(1);
    zone.falloff = reader.number("falloff", {-4, 4}).value_or(0);
    zone.priority = reader.whole("priority", {-1000, 1000}).value_or(0);
    zone.blend = reader.number("blend", {0, level_far, "m"}).value_or(0);
    reader.finish();
    level.zones.push_back(zone);
  }

  /// Water: a box with its surface on top.
  void read_pool(TableReader reader) {
    Pool pool;
    pool.half_extents = reader.required("size", reader.vec3("size", size_limits), "three lengths") * 0.5;
    read_pose(reader, pool.pose);
    pool.density = reader.number("density", {1e-3, 1e5, "kg/m3"}).value_or(pool.density);
    pool.drag = reader.number("drag", {0, 1000, "1/s"}).value_or(pool.drag);
    pool.flow = reader.vec3("flow", {-100, 100, "m/s"}).value_or(Vec3{});
    reader.finish();
    level.pools.push_back(pool);
  }

  void add_marker(const TableReader& reader, const std::string& key, const std::string& name, const Vec3& at) {
    for (const auto& [known, place] : level.markers) {
      if (known == name) reader.refuse(key, fmt::format("marker '{}' a second time", name), "each marker once");
    }
    level.markers.emplace_back(name, at);
  }
};

}  // namespace

bool Level::has_dynamic() const {
  return std::ranges::any_of(bodies, [](const BodyPlan& b) { return b.kind == BodyKind::dynamic; });
}

std::vector<BodyId> Level::build(Stage& stage) const {
  World& world = stage.world;
  world.set_gravity(gravity);
  for (const GravityZone& zone : zones) world.add_zone(zone);
  std::vector<BodyId> ids;
  for (const BodyPlan& plan : bodies) {
    if (plan.group != 0) world.set_group(plan.group, {});
    ids.push_back(world.add(plan));
  }
  for (const auto& [id, rule] : groups) world.set_group(id, rule);
  for (LevelJoint joint : joints) {
    joint.plan.a = ids[joint.a];
    if (joint.b) joint.plan.b = ids[*joint.b];
    try {
      world.add(joint.plan);
    } catch (const InputError& error) {
      Fault fault = error.fault();
      fault.place = joint.place, fault.key = joint.key + fault.key;
      throw InputError(fault);
    }
  }
  for (const Pool& pool : pools) world.add_pool(pool);
  for (const LevelRail& rail : rails) stage.add_rail(ids[rail.body], rail.rail_motion);
  return ids;
}

Level read_level(const std::filesystem::path& file, std::size_t most_bodies) {
  const DocValue document = read_document(file);
  TableReader reader(document, file.string());
  LevelReader made{file.parent_path(), most_bodies};
  made.level.gravity = reader.vec3("gravity", {-1000, 1000, "m/s2"}).value_or(made.level.gravity);
  int index = 0;
  const auto each = [&](const char* key, auto&& read) {
    index = 0;
    for (const DocValue* table : reader.tables(key))
      read(TableReader(*table, file.string(), fmt::format("{}[{}].", key, index++)));
  };
  each("surface", [&](TableReader table) { made.read_surface(std::move(table)); });
  each("body", [&](TableReader table) { made.read_body(std::move(table)); });
  each("stack", [&](TableReader table) { made.read_stack(std::move(table)); });
  each("joint", [&](TableReader table) { made.read_joint(std::move(table)); });
  each("copies", [&](TableReader table) { made.read_copies(std::move(table)); });
  each("zone", [&](TableReader table) { made.read_zone(std::move(table)); });
  each("pool", [&](TableReader table) { made.read_pool(std::move(table)); });
  each("group", [&](TableReader table) {
    const auto id = static_cast<std::uint32_t>(table.required("id", table.whole("id", {1, 1e6}), "a whole number"));
    GroupRule rule;
    rule.collide = table.truth("collide").value_or(false);
    rule.lift = table.number("lift", {-100, 100}).value_or(0);
    table.finish();
    made.level.groups.emplace_back(id, rule);
  });
  index = 0;
  for (const DocValue* table : reader.tables("marker")) {
    TableReader marker(*table, file.string(), fmt::format("marker[{}].", index++));
    const std::string name = marker.required("name", marker.text("name"), "a text");
    made.add_marker(marker, "name", name,
                    marker.required("position", marker.vec3("position", place_limits), "three lengths"));
    marker.finish();
  }
  reader.finish();
  if (made.level.bodies.empty()) reader.refuse("body", "nothing", "one [[body]] at least");
  return std::move(made.level);
}

}  // namespace jugend
