// Tuning files: the numbers of one kind of actor, under the keys that its tunables describe.
#pragma once

#include <filesystem>
#include <jugend/lab/document.hpp>
#include <jugend/lab/kind.hpp>

namespace jugend {

/// Reads a tuning for an actor of `kind`; keys that are absent keep their defaults. Throws InputError, also for
/// a file of another kind that this one does not read.
ActorTuning read_tuning(const std::filesystem::path& file, const LabKind& kind,
                        const LabKinds& kinds = standard_kinds());

/// Is it a file that says its kind and is no trial?
bool is_tuning(const std::filesystem::path& file);
/// Reads it for an actor of the kind that it says. Throws InputError.
ActorTuning read_tuning(const std::filesystem::path& file, const LabKinds& kinds = standard_kinds());

/// Writes the numbers in `table` ([jump] height = 1.2, or "jump.height" = 1.2) into `tuning`.
void apply_tunables(const DocValue& table, const std::string& file, ActorTuning& tuning);

/// What a refusal says of a key that is none of that kind's: where they are listed.
std::string as_listed(const LabKind& kind);

}  // namespace jugend
