// Tuning files: the numbers of one kind of actor, under the keys that its tunables describe.
#pragma once

#include <filesystem>
#include <jugend/lab/document.hpp>
#include <jugend/motion/walker.hpp>

namespace jugend {

/// Reads a walker's tuning; keys that are absent keep their defaults. Throws InputError.
WalkerTuning read_walker_tuning(const std::filesystem::path& file);

/// Writes the numbers in `table` ([jump] height = 1.2, or "jump.height" = 1.2) into `tuning`.
void apply_tunables(const DocValue& table, const std::string& file, TunableList list, void* tuning);

}  // namespace jugend
