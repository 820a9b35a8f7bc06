// What a tool links: the lab, too.
#include <jugend/lab/trial.hpp>

int main() {
  jugend::Trial trial;
  return trial.hz == 60 ? 0 : 1;
}
