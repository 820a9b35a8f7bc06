# find_package(jugend): the targets jugend::jugend and jugend::lab.
include(CMakeFindDependencyMacro)
find_dependency(Eigen3 3.4)
find_dependency(fmt)
find_dependency(TinyGLTF)
find_dependency(tinyobjloader)
find_dependency(tomlplusplus)
find_dependency(nlohmann_json)
include(${CMAKE_CURRENT_LIST_DIR}/jugend_targets.cmake)
