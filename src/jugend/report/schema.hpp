// Tunables as lists for people, JSON, and JSON Schema.
#pragma once

#include <jugend/base/tunable.hpp>
#include <string>

namespace jugend {

/// A heading for each part, then a line a tunable: key, default, range, help. `defaults` is only read.
std::string tunable_table(const Tunables& list, void* defaults);
std::string tunable_json(const Tunables& list, void* defaults);
/// A JSON Schema (draft 2020-12) of a tuning file with these tunables; `kind` is its kind key.
std::string tunable_schema(const Tunables& list, void* defaults, const std::string& kind);

}  // namespace jugend
