// Which memory arrays take: in the library, so that all parts of a program have one.
#include <jugend/base/array.hpp>

namespace jugend {
namespace {

thread_local const Memory* memory_now = nullptr;

}  // namespace

MemoryScope::MemoryScope(const Memory* memory) : outer_(memory_now) { memory_now = memory; }
MemoryScope::~MemoryScope() { memory_now = outer_; }
const Memory* MemoryScope::now() { return memory_now; }

}  // namespace jugend
