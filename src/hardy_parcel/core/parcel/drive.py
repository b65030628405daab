"""The drive that a folder lies on: a folder may be there although its drive is not."""

from __future__ import annotations

from ..values import Model


class Drive(Model):
    """A file system: where it is mounted, the number that it gives itself, and its size in bytes."""

    mount_point: str
    file_system_id: int
    total_bytes: int

    def is_same(self, other: Drive) -> bool:
        """Whether this is the same drive. Some file systems number themselves anew with each mount, so an equal size counts too."""
        same_content = self.file_system_id == other.file_system_id or self.total_bytes == other.total_bytes
        return self.mount_point == other.mount_point and same_content

    def lies_above(self, other: Drive) -> bool:
        """Whether this is what is found at the mount point of the other drive while that one is not mounted."""
        return self.mount_point != other.mount_point and other.mount_point.startswith(
            self.mount_point.rstrip("/") + "/"
        )
