#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <jugend/base/error.hpp>
#include <new>
#include <utility>
#include <vector>

namespace jugend {
namespace {

/// Without what a terminal would obey, and no longer than somebody reads.
std::string shown(const std::string& text) {
  constexpr std::size_t most = 300;
  std::string plain;
  for (const char c : text.substr(0, most)) {
    const auto code = static_cast<unsigned char>(c);
    if (code >= 0x20 && code != 0x7f)
      plain += c;
    else
      plain += c == '\n' || c == '\t'
                   ? std::string(" ")
                   : "\\x" + std::string(1, "0123456789abcdef"[code / 16]) + "0123456789abcdef"[code % 16];
  }
  return text.size() > most ? plain + " ..." : plain;
}

void (*fault_handler)(const Fault&) = nullptr;
thread_local const AmendBase* innermost = nullptr;

std::size_t edits(std::string_view a, std::string_view b) {
  std::vector<std::vector<std::size_t>> d(a.size() + 1, std::vector<std::size_t>(b.size() + 1));
  for (std::size_t i = 0; i <= a.size(); ++i) d[i][0] = i;
  for (std::size_t j = 0; j <= b.size(); ++j) d[0][j] = j;
  for (std::size_t i = 1; i <= a.size(); ++i) {
    for (std::size_t j = 1; j <= b.size(); ++j) {
      const bool same = a[i - 1] == b[j - 1];
      d[i][j] = std::min({d[i - 1][j] + 1, d[i][j - 1] + 1, d[i - 1][j - 1] + (same ? 0 : 1)});
      if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1]) {
        d[i][j] = std::min(d[i][j], d[i - 2][j - 2] + 1);
      }
    }
  }
  return d[a.size()][b.size()];
}

}  // namespace

std::string message_of(const Fault& fault) {
  std::string text = shown(fault.place.file);
  if (fault.place.line > 0) {
    text += ':' + std::to_string(fault.place.line) + ':' + std::to_string(fault.place.column);
  }
  const auto add = [&text](const char* before, const std::string& part) {
    if (part.empty()) return;
    if (!text.empty()) text += before[0] == ';' ? "; " : ": ";
    text += (before[0] == ';' || before[0] == ':' ? before + 1 : before) + shown(part);
  };
  add("", fault.key);
  add(":found ", fault.found);
  add(";allowed: ", fault.allowed);
  add(";nearest: ", fault.nearest);
  return text;
}

InputError::InputError(Fault fault) : std::runtime_error(message_of(fault)), fault_(std::move(fault)) {}

AmendBase::AmendBase(void (*amend)(const AmendBase&, Fault&)) : amend_(amend), outer_(innermost) { innermost = this; }
AmendBase::~AmendBase() { innermost = outer_; }

void set_fault_handler(void (*handler)(const Fault& fault)) { fault_handler = handler; }

void fail(Fault fault) {
  for (const AmendBase* one = innermost; one != nullptr; one = one->outer_) one->amend_(*one, fault);
#ifdef __cpp_exceptions
  throw InputError(std::move(fault));
#else
  innermost = nullptr;
  if (fault_handler != nullptr) fault_handler(fault);
  std::fprintf(stderr, "%s\n", message_of(fault).c_str());
  std::abort();
#endif
}

void fail_for_memory() {
#ifdef __cpp_exceptions
  throw std::bad_alloc();
#else
  std::fputs("no memory\n", stderr);
  std::abort();
#endif
}

std::string nearest_name(std::string_view name, std::span<const std::string> names) {
  std::string best;
  if (name.size() > 200) return best;  // no slip of the finger
  std::size_t fewest = name.size() / 2 + 1;
  for (const std::string& candidate : names) {
    std::size_t n = edits(name, candidate);
    // "heigth" means "jump.height": the last part alone may be what was meant.
    if (const auto dot = candidate.rfind('.'); dot != std::string::npos && name.find('.') == std::string::npos) {
      n = std::min(n, edits(name, std::string_view(candidate).substr(dot + 1)));
    }
    if (n < fewest) {
      fewest = n;
      best = candidate;
    }
  }
  return best;
}

}  // namespace jugend
