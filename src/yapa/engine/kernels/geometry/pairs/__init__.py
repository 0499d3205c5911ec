"""How two shapes meet, a module a pair; ``registry`` lists them, ``dispatch`` makes one kernel of all."""
