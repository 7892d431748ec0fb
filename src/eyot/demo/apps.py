"""The app's entry in Django."""

from django.apps import AppConfig


class DemoConfig(AppConfig):
    """Tells the simulated camera what the demo's animals truly are."""

    name = "eyot.demo"

    def ready(self) -> None:
        """Enters the demo's genotypes where the camera asks for them."""
        from eyot.capture.camera import truths
        from eyot.demo.truth import truth_of

        truths.append(truth_of)
