"""Builds the compiled walkers, where there is a compiler; without one everything works as well, slower."""

from setuptools import Extension, setup

setup(
    ext_modules=[
        Extension(
            "fieldstick.kernels._walkers",
            ["src/fieldstick/kernels/_walkers.c"],
            # What the limited C API of one version of Python was used for runs with all later ones.
            py_limited_api=True,
            optional=True,
        )
    ],
    options={"bdist_wheel": {"py_limited_api": "cp311"}},
)
