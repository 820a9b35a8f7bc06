#include <atomic>
#include <jugend/base/shared.hpp>

namespace jugend::shared_detail {

void retain(Holder* holder) noexcept { std::atomic_ref(holder->holders).fetch_add(1, std::memory_order_relaxed); }

void let_go(Holder* holder) noexcept {
  if (std::atomic_ref(holder->holders).fetch_sub(1, std::memory_order_acq_rel) == 1) delete holder;
}

}  // namespace jugend::shared_detail
