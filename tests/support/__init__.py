"""What tests share: a small move, an outside that fails on demand, and pictures of folders."""
