// What this machine can do beyond what all of its kind can. Code for it is built beside the portable code, gives the
// same bits, and is taken where it can be. Inner to the library.
#pragma once

#if defined(__x86_64__) && !defined(JUGEND_PORTABLE)  // JUGEND_PORTABLE: as other machines do it
#define JUGEND_AVX2 1
#include <immintrin.h>

namespace jugend {
inline const bool has_avx2 = __builtin_cpu_supports("avx2") && __builtin_cpu_supports("fma");
}  // namespace jugend
#endif
