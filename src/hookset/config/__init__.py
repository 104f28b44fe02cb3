"""What a layout and a hook sheet say, as typed values with every mistake told in its line."""
