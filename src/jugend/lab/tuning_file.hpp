// Tuning files: the numbers of one kind of actor, under the keys that its tunables describe.
#pragma once

#include <filesystem>
#include <jugend/lab/actor_tuning.hpp>
#include <jugend/lab/document.hpp>

namespace jugend {

/// Reads a tuning for an actor of `kind`; keys that are absent keep their defaults. Throws InputError, also for
/// a file of another kind; a walker's file may be read for a forced walker.
ActorTuning read_tuning(const std::filesystem::path& file, ActorKind kind);

/// Writes the numbers in `table` ([jump] height = 1.2, or "jump.height" = 1.2) into `tuning`.
void apply_tunables(const DocValue& table, const std::string& file, ActorTuning& tuning);

/// What a refusal says of a key that is none of that kind's: where they are listed.
std::string as_listed(ActorKind kind);

}  // namespace jugend
