// Pieces of work on threads: the library's own, or the program's job system.
#include <algorithm>
#include <atomic>
#include <chrono>
#include <condition_variable>
#include <exception>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/workers.hpp>
#include <mutex>
#include <system_error>
#include <thread>
#include <vector>

namespace jugend {
namespace {

/// Whoever waits for a moment only.
void breathe() {
#if defined(__x86_64__) || defined(__i386__)
  __builtin_ia32_pause();
#else
  std::this_thread::yield();
#endif
}

thread_local bool within_a_job = false;

}  // namespace

/// Threads that help the one that calls run(). A step has many short runs: between two of them they stay awake for a
/// moment, then they sleep.
class Crew {
 public:
  explicit Crew(int helpers) {
    threads_.reserve(static_cast<std::size_t>(helpers));
#ifdef __cpp_exceptions
    try {
      start(helpers);
    } catch (const std::system_error&) {
      // Where the machine gives no more threads those that there are do it.
    }
#else
    start(helpers);
#endif
  }
  ~Crew() {
    stop_ = true;
    {
      const std::scoped_lock lock(mutex_);
      ++calls_;
    }
    called_.notify_all();
    for (std::thread& thread : threads_) thread.join();
  }
  Crew(const Crew&) = delete;
  Crew& operator=(const Crew&) = delete;

  void run(std::size_t pieces, void (*job)(void*, std::size_t), void* of) {
    pieces_ = pieces, job_ = job, of_ = of, fault_ = nullptr;
    next_ = 0;
    open_ = true;
    ++calls_;
    if (sleeping_ > 0) {
      { const std::scoped_lock lock(mutex_); }
      called_.notify_all();
    }
    work();
    open_ = false;
    while (inside_ > 0) breathe();  // one that comes too late finds it closed
#ifdef __cpp_exceptions
    if (fault_) std::rethrow_exception(fault_);
#endif
  }

 private:
  void start(int helpers) {
    for (int i = 0; i < helpers; ++i) threads_.emplace_back([this] { help(); });
  }
  void do_pieces() {
    for (std::size_t i; (i = next_++) < pieces_;) job_(of_, i);
  }
  void work() {
    within_a_job = true;
#ifdef __cpp_exceptions
    try {
      do_pieces();
    } catch (...) {
      next_ = pieces_;
      const std::scoped_lock lock(mutex_);
      if (!fault_) fault_ = std::current_exception();
    }
#else
    do_pieces();
#endif
    within_a_job = false;
  }
  void help() {
    using Clock = std::chrono::steady_clock;
    constexpr auto moment = std::chrono::microseconds(50);
    std::uint64_t heard = 0;
    while (!stop_) {
      const auto since = Clock::now();
      while (calls_ == heard && Clock::now() - since < moment) breathe();
      if (calls_ == heard) {
        std::unique_lock lock(mutex_);
        ++sleeping_;
        called_.wait(lock, [&] { return calls_ != heard; });
        --sleeping_;
      }
      heard = calls_;
      ++inside_;
      if (open_) work();
      --inside_;
    }
  }

  std::vector<std::thread> threads_;
  std::mutex mutex_;
  std::condition_variable called_;
  std::atomic<std::uint64_t> calls_{0};
  std::atomic<int> sleeping_{0}, inside_{0};
  std::atomic<bool> open_{false}, stop_{false};
  std::atomic<std::size_t> next_{0};
  // Of the run that is open: changed only while nobody is inside.
  std::size_t pieces_ = 0;
  void (*job_)(void*, std::size_t) = nullptr;
  void* of_ = nullptr;
  std::exception_ptr fault_;
};

void Workers::set_threads(int threads) {
  if (threads < 1 || threads > 256) fail({{}, "threads", filled("{}", threads), "1 to 256", {}});
  const int cores = std::max(1, static_cast<int>(std::thread::hardware_concurrency()));
  threads_ = threads, jobs_ = {};
  crew_ = threads > 1 && cores > 1 ? Shared<Crew>::make(std::min(threads, cores) - 1) : nullptr;
}

void Workers::set_jobs(const JobSystem& jobs) {
  if (jobs.run == nullptr || jobs.threads == nullptr)
    fail({{}, "jobs", "a job system without one of its functions", "both run and threads", {}});
  jobs_ = jobs, threads_ = 1, crew_ = nullptr;
}

void Workers::run(std::size_t count, std::size_t grain, void* work,
                  void (*call)(void*, std::size_t, std::size_t)) const {
  const std::size_t pieces = (count + grain - 1) / grain;
  auto piece = [&](std::size_t i) { call(work, i * grain, std::min(count, (i + 1) * grain)); };
  const auto job = [](void* of, std::size_t i) { (*static_cast<decltype(piece)*>(of))(i); };
  if (jobs_.run != nullptr) return jobs_.run(jobs_.host, pieces, job, &piece);
  if (crew_.get() != nullptr && !within_a_job) return crew_->run(pieces, job, &piece);
  for (std::size_t i = 0; i < pieces; ++i) piece(i);
}

}  // namespace jugend
