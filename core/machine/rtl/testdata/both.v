// Both edges, a reset of each kind, down-counters, a compare of two that move.
module top(input clk, input rst, output lamp, output reg late, output meet);
  reg [17:0] up = 0;
  reg [11:0] down = 12'hfff;
  always @(posedge clk or posedge rst) if (rst) up <= 0; else up <= up + 3;
  always @(negedge clk) if (rst) down <= 0; else down <= down - 1;
  always @(negedge clk) late <= up[17];
  assign lamp = up > 18'd100_000;
  assign meet = up[11:0] == down;
endmodule
