"""A figure posed on a frame: pulled, turned, mirrored, copied, its limbs switched, its eyes led."""
