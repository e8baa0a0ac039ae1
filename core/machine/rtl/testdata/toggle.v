// full
// A clock of half the rate by a toggled flip-flop, and a counter by it.
module top(input clk, output lamp);
  reg half = 0;
  reg [24:0] n = 0;
  always @(posedge clk) half <= ~half;
  always @(posedge half) n <= n + 1;
  assign lamp = n[24];
endmodule
