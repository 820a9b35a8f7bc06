#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cstdlib>
#include <fstream>
#include <jugend/base/error.hpp>
#include <jugend/report/detail/output_files.hpp>
#include <jugend/report/run_folder.hpp>

namespace jugend {

namespace fs = std::filesystem;

void refuse_file(const fs::path& file, std::string found, std::string allowed) {
  throw InputError({{file.string()}, {}, std::move(found), std::move(allowed), {}});
}

namespace {

constexpr const char* journal_name = ".jugend-journal";

/// Pairs of names, beside and in their places, that a set which was killed has left to do.
std::vector<std::pair<std::string, std::string>> journal_of(const fs::path& folder) {
  std::vector<std::pair<std::string, std::string>> left;
  std::ifstream in(folder / journal_name);
  const auto is_name = [](const std::string& name) { return !name.empty() && name.find('/') == std::string::npos; };
  for (std::string beside, file; std::getline(in, beside) && std::getline(in, file);) {
    if (is_name(file) && is_name(beside) && beside.starts_with(FileSet::beginning)) left.emplace_back(beside, file);
  }
  return left;
}

bool write_whole(int opened, const std::string& text) {
  bool whole = ::fchmod(opened, 0644) == 0;
  for (std::size_t at = 0; whole && at < text.size();) {
    const ssize_t put = ::write(opened, text.data() + at, text.size() - at);
    whole = put > 0;
    at += whole ? static_cast<std::size_t>(put) : 0;
  }
  return ::close(opened) == 0 && whole;
}

/// Finishes what the journal names, and takes away what nothing names. What is young may be another's in this moment.
void tidy(const fs::path& folder) {
  std::error_code ignored;
  for (const auto& [beside, file] : journal_of(folder)) fs::rename(folder / beside, folder / file, ignored);
  const bool was_killed = fs::remove(folder / journal_name, ignored);
  const auto old = fs::file_time_type::clock::now() - std::chrono::minutes(was_killed ? 0 : 10);
  std::error_code error;
  for (fs::directory_iterator at(folder, error), end; !error && at != end; at.increment(error)) {
    if (at->path().filename().string().starts_with(FileSet::beginning) &&
        fs::last_write_time(at->path(), ignored) < old)
      fs::remove(at->path(), ignored);
  }
}

}  // namespace

FileSet::FileSet(const fs::path& folder) : folder_(folder.empty() ? fs::path(".") : folder) {
  std::error_code error;
  for (fs::path p = folder_; !p.empty() && !fs::exists(p, error); p = p.parent_path()) made_.push_back(p);
  fs::create_directories(folder_, error);
  if (error) refuse_file(folder, "a place that cannot be written", "a folder that can be written");
  tidy(folder_);
}

FileSet::~FileSet() {
  std::error_code ignored;
  for (const auto& [beside, file] : waiting_) fs::remove(beside, ignored);
  if (!done_) {
    for (const fs::path& p : made_) fs::remove(p, ignored);  // where nothing lies in it
  }
}

void FileSet::add(const std::string& name, const std::string& text) {
  const fs::path file = folder_ == "." ? fs::path(name) : folder_ / name;
  std::string beside = (folder_ / (std::string(beginning) + "XXXXXX")).string();
  const int opened = ::mkstemp(beside.data());
  if (opened < 0) refuse_file(file, "a place that cannot be written", "a file in a folder that can be written");
  waiting_.emplace_back(beside, file);
  if (!write_whole(opened, text)) refuse_file(file, "no room to write it", "a place with room; nothing was changed");
}

std::vector<fs::path> FileSet::place() {
  const bool several = waiting_.size() > 1;
  if (several) {
    std::string journal;
    for (const auto& [beside, file] : waiting_)
      journal += beside.filename().string() + '\n' + file.filename().string() + '\n';
    const std::size_t before = waiting_.size();
    add(journal_name, journal);
    std::error_code error;
    fs::rename(waiting_[before].first, waiting_[before].second, error);  // from here on it is done
    if (error) refuse_file(folder_, "a place that cannot be written", "a folder that can be written");
    waiting_.pop_back();
  }
  std::vector<fs::path> placed;
  for (auto& [beside, file] : waiting_) {
    std::error_code error;
    fs::rename(beside, file, error);
    if (error) refuse_file(file, "a place that cannot be written", "a file in a folder that can be written");
    placed.push_back(file);
  }
  std::error_code ignored;
  if (several) fs::remove(folder_ / journal_name, ignored);
  waiting_.clear(), done_ = true;
  return placed;
}

fs::path FileSet::current(const fs::path& folder, const std::string& name) {
  std::error_code error;
  for (const auto& [beside, file] : journal_of(folder)) {
    if (file == name && fs::exists(folder / beside, error)) return folder / beside;
  }
  return folder / name;
}

std::string sum_of(const std::string& text) {
  std::uint64_t sum = 0xcbf29ce484222325ULL;
  for (const char c : text) sum = (sum ^ static_cast<unsigned char>(c)) * 0x100000001b3ULL;
  return fmt::format("{:016x}", sum);
}

std::vector<std::string> part_files(const Trace& trace) {
  std::vector<std::string> files;
  for (const ActorTrace& actor : trace.actors) {
    const char* file = actor.parts > 0 ? actor.tuning.kind().parts().file : nullptr;
    if (file != nullptr && std::ranges::find(files, file) == files.end()) files.emplace_back(file);
  }
  return files;
}

void write_file(const fs::path& file, const std::string& text) {
  std::error_code error;
  if (fs::is_directory(file, error)) refuse_file(file, "a folder", "a file in a folder that can be written");
  FileSet set(file.parent_path());
  set.add(file.filename().string(), text);
  set.place();
}

}  // namespace jugend
