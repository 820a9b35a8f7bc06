#include <fmt/format.h>

#include <jugend/lab/tuning_file.hpp>

namespace jugend {
namespace {

/// A key may be a tunable's own, or the heading of several.
void apply(const DocValue& value, const std::string& key, const std::string& file, ActorTuning& tuning) {
  const TunableList list = tuning.list();
  const Place place{file, value.line, value.column};
  const Tunable* tunable = find_tunable(list, key);
  if (tunable != nullptr) {
    if (value.kind != DocValue::Kind::number) {
      throw InputError(
          {place,
           key,
           value.shown(),
           fmt::format("a number, {} to {} {}", as_text(tunable->low), as_text(tunable->high), tunable->unit),
           {}});
    }
    try {
      tunable->write(tuning.data(), value.number);
    } catch (const InputError& error) {
      Fault fault = error.fault();
      fault.place = place;
      throw InputError(fault);
    }
    return;
  }
  const bool heading = [&] {
    for (const Tunable& t : list) {
      if (t.key.starts_with(key + ".")) return true;
    }
    return false;
  }();
  if (value.kind == DocValue::Kind::table && heading) {
    for (const auto& [name, member] : value.members) apply(member, key + "." + name, file, tuning);
    return;
  }
  if (heading) throw InputError({place, key, value.shown(), "a table of tunables", {}});
  throw InputError({place, key, "a key that is not known", as_listed(tuning.kind()), nearest_name(key, keys(list))});
}

/// Where a tuning sets a key, which may stand in tables within tables; none where it does not.
const DocValue* find_key(const DocValue& table, std::string_view key) {
  for (const auto& [name, value] : table.members) {
    if (name == key) return &value;
    if (key.starts_with(name + ".")) {
      if (const DocValue* found = find_key(value, key.substr(name.size() + 1))) return found;
    }
  }
  return nullptr;
}

}  // namespace

std::string as_listed(const LabKind& kind) {
  return fmt::format("a tunable, as listed by: jugend params {}", kind.name());
}

void apply_tunables(const DocValue& table, const std::string& file, ActorTuning& tuning) {
  for (const auto& [name, value] : table.members) apply(value, name, file, tuning);
}

ActorTuning read_tuning(const std::filesystem::path& file, const LabKind& kind, const LabKinds& kinds) {
  DocValue document = read_document(file);
  TableReader reader(document, file.string());
  if (const auto found = reader.text("kind")) {
    const std::vector<std::string> names = kinds.names();
    if (!kind.reads_files_of(names[reader.choice("kind", *found, names)]))
      reader.refuse("kind", fmt::format("'{}'", *found),
                    fmt::format("\"{}\", as the actor that is tuned", kind.name()));
  }
  std::erase_if(document.members, [](const auto& member) { return member.first == "kind"; });
  ActorTuning tuning(kind);
  apply_tunables(document, file.string(), tuning);
  try {
    check(tuning);
  } catch (const InputError& error) {
    Fault fault = error.fault();
    const DocValue* set = find_key(document, fault.key);
    fault.place = {file.string(), set ? set->line : 1, set ? set->column : 1};
    throw InputError(fault);
  }
  return tuning;
}

}  // namespace jugend
