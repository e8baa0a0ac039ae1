// A clock behind a gate whose enable a latch keeps, and a counter of both of its levels.
module top(input clk, input run, output reg [7:0] n, output [1:0] level);
  reg open;
  always @* if (!clk) open = run;
  wire gated = clk & open;
  initial n = 0;
  always @(posedge gated) n <= n + 1'b1;
  reg [3:0] falls = 0;
  always @(negedge gated) falls <= falls + 1'b1;
  assign level = {falls[3], gated};
endmodule
