// Vectors and symmetric matrices of four things side by side. Inner to the library.
#pragma once

#include <jugend/base/lanes.hpp>
#include <jugend/base/sym3.hpp>

namespace jugend {

template <class L>
struct Vec3Lanes {
  L x, y, z;
  JUGEND_INLINE static Vec3Lanes of(const Vec3& v) { return {L::of(v.x), L::of(v.y), L::of(v.z)}; }
  JUGEND_INLINE static Vec3Lanes of(const Vec3s4& r) { return {L::of(r.x), L::of(r.y), L::of(r.z)}; }
  JUGEND_INLINE void store(Vec3s4& r) const { x.store(r.x), y.store(r.y), z.store(r.z); }
  JUGEND_INLINE Vec3Lanes operator+(const Vec3Lanes& b) const { return {x + b.x, y + b.y, z + b.z}; }
  JUGEND_INLINE Vec3Lanes operator-(const Vec3Lanes& b) const { return {x - b.x, y - b.y, z - b.z}; }
  JUGEND_INLINE Vec3Lanes operator*(const L& s) const { return {x * s, y * s, z * s}; }
  JUGEND_INLINE void operator+=(const Vec3Lanes& b) { *this = *this + b; }
  JUGEND_INLINE void operator-=(const Vec3Lanes& b) { *this = *this - b; }
  JUGEND_INLINE friend Vec3Lanes times(const Vec3Lanes& a, const Vec3Lanes& b) {
    return {a.x * b.x, a.y * b.y, a.z * b.z};
  }
  JUGEND_INLINE friend L dot(const Vec3Lanes& a, const Vec3Lanes& b) { return a.x * b.x + a.y * b.y + a.z * b.z; }
  JUGEND_INLINE friend Vec3Lanes cross(const Vec3Lanes& a, const Vec3Lanes& b) {
    return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
  }
  JUGEND_INLINE Vec3Lanes where(const typename L::Mask& m, const Vec3Lanes& otherwise) const {
    return {x.where(m, otherwise.x), y.where(m, otherwise.y), z.where(m, otherwise.z)};
  }
  /// At length 1, or `otherwise` where it is too short to have a direction.
  JUGEND_INLINE Vec3Lanes normalised(const Vec3Lanes& otherwise) const {
    const L length = root(dot(*this, *this));
    return (*this * (L::of(1) / length)).where(L::of(1e-150) < length, otherwise);
  }
};

template <class L>
struct Sym3Lanes {
  L xx, yy, zz, xy, xz, yz;
  JUGEND_INLINE friend Vec3Lanes<L> operator*(const Sym3Lanes& m, const Vec3Lanes<L>& v) {
    return {m.xx * v.x + m.xy * v.y + m.xz * v.z, m.xy * v.x + m.yy * v.y + m.yz * v.z,
            m.xz * v.x + m.yz * v.y + m.zz * v.z};
  }
};

}  // namespace jugend
