// Pulses of a width that a slow count moves up and down, and a prescaler by bits of a counter.
module top(input clk, output lamp, output beat);
  reg [19:0] t = 0;
  reg [7:0] width = 10;
  reg up = 1;
  always @(posedge clk) begin
    t <= t + 1;
    if (&t[15:0]) begin
      width <= up ? width + 1 : width - 1;
      if (width == 250) up <= 0;
      if (width == 5) up <= 1;
    end
  end
  assign lamp = t[9:2] < width;
  assign beat = t[19] & ~t[18];
endmodule
